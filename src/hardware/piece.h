// A bought piece by name, with its form: what a stand-in looks like, and the room that lets it in.
#pragma once
#include "base/geometry.h"
#include "base/problem.h"
#include <vector>

namespace lp {

/// It goes down into the face z = 0 about the z axis: a head's seat, a nut's or a magnet's top lie on it.
struct Piece {
    enum class Kind {
        Screw,       ///< round head above its shaft
        Countersunk, ///< the top of its head lies on z = 0
        HexScrew,
        Grub, ///< no head
        Nut,
        SquareNut,
        Washer,
        Insert,
        Disc, ///< magnet, cell, pin
        Bearing,
        Tube
    };
    Kind kind = Kind::Screw;
    std::string name;     ///< "M3 countersunk socket screw, ISO 10642"
    double across_mm = 0; ///< of the thread, or outside
    double length_mm = 0; ///< as told: below the seat, of the whole countersunk screw; 0: a screw without a length
    double head_mm = 0, head_high_mm = 0;
    double cone_deg = 90; ///< of a countersunk head, from side to side
    double flats_mm = 0;  ///< of a nut or a hexagon head
    double bore_mm = 0;   ///< of a washer, bearing, nut or tube
    double core_mm = 0;   ///< the hole a screw bites into, or that an insert is pressed into
    double wall_mm = 0;   ///< least wall round an insert
    bool sure = true;     ///< the table is
    bool is_screw() const {
        return kind == Kind::Screw || kind == Kind::Countersunk || kind == Kind::HexScrew || kind == Kind::Grub;
    }
};

/// The first row of the tables that the words mean, as a piece. A Problem that names the nearest sizes where there is
/// none, and for rows that are no thing: a thread, a clearance hole.
Expected<Piece> piece_called(const std::string& words);

/// What holds a screw, as words for piece_called: of "a nut" and "an insert"; empty for its own thread.
std::string holder_words(const Piece& screw, const std::string& held_by);

/// ISO 273: diameter of the hole a thread goes through, `fit` is "close", "medium" or "free"; a tenth more than the
/// thread, 0.4 mm at least, where the table has no row.
double clearance_hole(double thread_mm, const std::string& fit);

/// A turned form as (radius, height), closed along the axis; counter-clockwise.
using TurnedForm = std::vector<Vec2>;
/// What of the piece is round, as it is; hexagons and squares are told by `prism`.
TurnedForm form_of(const Piece& piece);
/// Flats on some sides from one height to another; no sides: none.
struct PrismForm {
    int sides = 0;
    double flats_mm = 0, low_mm = 0, high_mm = 0;
};
PrismForm prism_of(const Piece& piece);

} // namespace lp
