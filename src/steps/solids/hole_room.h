// The room that a bought piece needs, and the tool that makes it. Shared by the steps that make holes by what goes in.
#pragma once
#include "hardware/piece.h"
#include "shape/mesh_distance.h"
#include "steps/step_kind.h"

namespace lp {

/// What is cut: turned about the axis, and flats beside it. The face is z = 0, the material below it.
struct Room {
    TurnedForm turned;
    PrismForm prism;
    std::optional<Vec3> slot;  ///< a way in from the side along x: length, width, and the height of its floor
    double least_depth_mm = 0; ///< what the material below the face must have at least
    std::string needs;         ///< "The head is", for when it has not
    double wall_mm = 0, wall_radius_mm = 0; ///< least wall, round this radius
};

/// As the sentence tells it; see the fields of hole_for.
struct RoomWish {
    std::string how, fit, head;
    double deep = 0, ease = 0, skin = 0, slot = 0;
    double through = 0;  ///< farther than the material reaches
    double above = 0.05; ///< the face: more for a part that is remade larger, whose faces stand out
};

/// A shaft's hole, and the room its head takes: a cone, a step, or nothing where it stays on the face.
Expected<Room> room_for_screw(const Piece& piece, const RoomWish& wish);
/// A pocket in which it lies, its top level with the face or under a skin.
Expected<Room> room_for_seat(const Piece& piece, const RoomWish& wish);
/// A round hole from one height down to another.
Room round_room(double diameter_mm, double high_mm, double low_mm);
/// Larger by `growth` on every face.
Expected<Body> room_tool(const Room& room, double growth, const Transform& at, const StepContext& context);

/// Room that is usual round a nut's flats, and above it, mm: common practice, no published source.
inline constexpr double nut_room_mm = 0.25, nut_above_mm = 0.5, below_screw_mm = 1;
/// Where a hole begins: the face, and the place on it that the fields of face_place_fields() tell.
struct PlaceInFace {
    Transform plane = Transform::Identity(), at = Transform::Identity();
};
Expected<PlaceInFace> place_in_face(const std::vector<StepBody>& before, const StepContext& context);
/// on, at_x, at_y and at_z; `what` completes "the face ...".
std::vector<StepField> face_place_fields(const std::string& what);

/// Above the face that a hole opens into, for a part remade larger by `growth`: faces that coincide are hard on
/// booleans.
inline double above_face(double growth) {
    return 0.05 + 2 * std::max(growth, 0.0);
}

/// How far the material reaches below the face beside a hole of this radius: the most of eight places round it.
double material_below(const DistanceTree& tree, const Transform& at, double radius);
/// The thinnest wall beside a radius, half way down a pocket.
double wall_round(const DistanceTree& tree, const Transform& at, double radius, double depth);
/// Where the room does not fit into a body: the plate too thin, the wall too thin.
std::optional<Problem> no_room(const Room& room, const Body& body, const Transform& at);

} // namespace lp
