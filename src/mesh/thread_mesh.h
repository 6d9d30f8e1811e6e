// Screw threads as meshes: a profile carried along a helix on its own grid, cut square at both ends.
#pragma once
#include "base/problem.h"
#include "shape/tri_mesh.h"
#include <optional>
#include <string>

namespace lp {

enum class ThreadProfile {
    Sharp,     ///< 60 degrees, flats of P/8 and P/4: the basic profile of ISO 68-1
    Round,     ///< flanks of 45 degrees, crests and roots rounded by P/4: prints well lying or standing
    Trapezoid, ///< 30 degrees, half the pitch deep
    Buttress   ///< 3 degrees where it carries (above), 45 below
};
const char* word_of(ThreadProfile profile);
std::optional<ThreadProfile> thread_profile_called(const std::string& word);

struct ThreadShape {
    double major_mm = 10, pitch_mm = 1.5; ///< diameter over the crests, before the fit; from crest to crest
    double length_mm = 20;
    ThreadProfile profile = ThreadProfile::Sharp;
    int starts = 1;
    bool left_hand = false;
    bool inside = false; ///< a ring with the thread in it
    bool mouths = false; ///< of an outside one that is cut out of something: wide at its ends, so that a screw finds in
    double fit_mm = 0;   ///< gap on flanks, crests and roots: an outside thread is smaller by it, an inside one larger
    double growth_mm = 0;        ///< every face stands out by this, the ends too: the same thing remade larger
    double wall_mm = 3;          ///< of the ring, outside its crests
    double deviation_mm = 0.004; ///< of chords from the round
};

struct Thread {
    TriMesh mesh;                      ///< closed; the axis is z, its foot z = 0
    double major_mm = 0, minor_mm = 0; ///< diameters as modelled
    double turns = 0;                  ///< of each start
    double largest_overhang_deg = 0;   ///< of flanks that look down, from the vertical, as it stands
    double lead_in_mm = 0;             ///< over which it grows from nothing at either end
};

/// Fails for sizes that make no sense: no length, a thread deeper than its radius, more than a million facets.
Expected<Thread> make_thread(const ThreadShape& shape);

/// How deep a profile of that pitch is, before the fit.
double thread_depth(ThreadProfile profile, double pitch_mm);

} // namespace lp
