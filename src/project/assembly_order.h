// What goes in when: the order in which the parts of a thing are put together, the way each comes in, what stands in
// its way.
#pragma once
#include "project/analysis.h"

namespace lp {

/// One part that is put in its place.
struct AssemblyMove {
    PartId part;
    std::string name;
    Vec3 from = Vec3::Zero();            ///< the way it comes from, a unit vector in the assembly; zero for the first
    double apart_mm = 0;                 ///< so far back it is clear of all before it and their own ways
    std::vector<Vec3> legs;              ///< of a way of its own (Part::way_out), before that: out of its place
    std::string no_way;                  ///< why its own way cannot be gone
    bool turned_in = false;              ///< a thread or a lock leads it: it turns on its way
    bool laid_in = false;                ///< it goes in while its part is printed: the print stops for it
    std::vector<std::string> meets;      ///< with the parts before it: "Peg in Plate, slide 0.25 mm"
    std::vector<std::string> in_the_way; ///< names of parts before it that it would have to pass through
    /// Where it is drawn when all is apart.
    Vec3 moved_by() const { return moved_by(1); }
    /// On its way there: 0 in its place, 1 apart, by lengths.
    Vec3 moved_by(double share) const;
    /// "from above; slide 0.25 mm in Plate".
    std::string words() const;
};

/// Parts and stand-ins that come near each other are one thing; each thing has an order of its own, and things that
/// touch nothing have one move. As the project has it (Project::assembly), else worked out by taking apart: of what is
/// left the smallest part that a straight way leads out of, along an axis of the assembly or its own; ways up first.
/// A part with a way of its own is led along it, the last leg on until it is apart. A way is free when no ray from its
/// surface along the way meets another part, nor back from those. Proportional to pairs of parts and their facets.
/// Fails on request.
Expected<std::vector<AssemblyMove>> assembly_order(const Evaluation& evaluation, const Analysis& analysis,
                                                   const Task& task = {});

} // namespace lp
