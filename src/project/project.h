// The document: an immutable value. Edits make the next one and share what did not change.
#pragma once
#include "base/expression.h"
#include "base/ids.h"
#include "bed/arrange.h"
#include "bed/face_marks.h"
#include "bed/pose.h"
#include "bed/pose_weights.h"
#include "bed/supports.h"
#include "fit/gauge.h"
#include "fit/situation.h"
#include "steps/step_kind.h"
#include <optional>

namespace lp {

/// One sentence of a part's build sheet. All values are kept as typed.
struct Step {
    StepId id; ///< unique in the project, never used again
    std::string kind;
    std::string name;  ///< given by the maker; may be empty
    std::string group; ///< steps next to each other with the same group fold together; empty: none
    bool on = true;
    std::map<std::string, FieldValue> fields;
    std::string extra; ///< fields of later versions, kept: a JSON object, or empty
    bool operator==(const Step&) const = default;
};

/// How a part lies when printed. Kept apart from where it stands in the design.
struct PrintPose {
    Vec3 down{0, 0, -1};               ///< direction in the design that points at the bed
    std::optional<FaceReference> face; ///< the face it was laid on, followed when numbers change
    std::array<std::string, 3> turn{"0 deg", "0 deg", "0 deg"}; ///< typed turns about x, y, z after laying
    bool operator==(const PrintPose&) const = default;
};

/// A face and what is wanted of it in print; found again when numbers change.
struct MarkedFace {
    FaceReference face;
    FaceMark mark = FaceMark::Seen;
    bool operator==(const MarkedFace&) const = default;
};

/// A stop of the print that is wanted by hand: to change the colour, to lay something in.
struct StopByHand {
    std::string at;  ///< height above the foot of the part as it lies, as typed: it stops before the layer above
    std::string why; ///< may be empty
    bool operator==(const StopByHand&) const = default;
};
constexpr size_t most_stops = 200;

/// Layers of another height in a part, as typed: heights above its foot as it lies.
struct TypedBand {
    std::string from, to, layer;
    bool operator==(const TypedBand&) const = default;
};
constexpr size_t most_bands = 50;

/// A leg of the way a part is led out of its place in the assembly, as typed (way_out.h).
struct TypedLeg {
    std::string to; ///< up, down, left, right, front, back; along: a drawn line
    std::string by; ///< how far; the line's name
    bool operator==(const TypedLeg&) const = default;
};
constexpr size_t most_legs = 20;

struct SupportSettings {
    bool on = false;
    SupportOptions options;
    std::vector<SupportChange> changes; ///< single ones by hand; places in the design frame
    bool any() const {
        return on || options.brim_mm > 0 || options.raft_layers > 0;
    } ///< something is printed beside the part
    bool operator==(const SupportSettings&) const = default;
};

/// Where a copy of a part was put on a bed, kept apart from the design.
struct BedStand {
    BedSpot spot;
    bool locked = false; ///< it stays when the others are arranged
    bool operator==(const BedStand&) const = default;
};
using BedStands = std::map<int, BedStand>; ///< by the number of the copy, the first is 0

/// How the beds are arranged.
struct BedSettings {
    double spacing_mm = 3;      ///< between outlines
    bool colours_apart = false; ///< only one colour a bed
    bool one_at_a_time = false; ///< each is printed whole before the next, the tallest of a bed last
    bool operator==(const BedSettings&) const = default;
};

/// A face of a part lies on a face of another one, or a round one is about the axis of a round one.
struct Seat {
    GeometryItem face;        ///< of the part itself
    std::string on;           ///< the other part's name
    GeometryItem on_face;     ///< of that
    std::string gap = "0 mm"; ///< left free between flat faces; a named fit is a length here as in all expressions
    bool operator==(const Seat&) const = default;
};

/// Where a part stands in the assembly, apart from its design frame and from how it is printed: turned about the
/// design's x, y and z axes in that order, seated (project/seating.h), then moved. As typed.
struct AssemblyPlace {
    std::array<std::string, 3> at{"0 mm", "0 mm", "0 mm"};
    std::array<std::string, 3> turn{"0 deg", "0 deg", "0 deg"};
    std::vector<Seat> seats; ///< each takes of the freedom that those before it left
    bool operator==(const AssemblyPlace&) const = default;
    bool is_home() const { return *this == AssemblyPlace{}; }
};

/// Other numbers for the same steps, kept by name. Keys are "12.diameter" for a field of step 12, or the name of a
/// number of the project.
struct Variant {
    std::string name;
    std::map<std::string, std::string> numbers;
    bool operator==(const Variant&) const = default;
};

struct Part {
    PartId id;
    std::string name;
    bool stand_in = false; ///< a bought thing: shown, cut with, never printed or exported
    int quantity = 1;
    std::string colour = "#d69b48";
    bool visible = true;
    bool see_through = false;
    std::vector<Step> steps;
    PrintPose pose;
    AssemblyPlace place;
    std::vector<Variant> variants;
    SupportSettings supports;
    std::vector<MarkedFace> marks;
    std::vector<BrushDab> brushed; ///< on its meshes, over the marks of faces
    std::vector<StopByHand> stops;
    std::vector<TypedBand> bands;         ///< from below upward
    std::vector<TypedLeg> way_out;        ///< empty: a straight one is looked for
    std::optional<Vec3> load;             ///< the way it is pulled in use, in the design frame
    std::optional<MaterialCard> material; ///< of its own; none: the project's
    BedStands stands;                     ///< of copies that were put somewhere; the others stand in rows
    std::optional<GaugeLadder> gauge;     ///< it is the coupon of a fit gauge
    std::string extra;                    ///< see Step
    bool operator==(const Part&) const = default;
    const Step* step(StepId id) const; ///< null when it has none of that id
};
/// Problem when the stand of a copy makes no sense.
std::optional<Problem> check_stand(int copy, const BedStand& stand);
using PartPtr = std::shared_ptr<const Part>;

/// A wanted fit between two parts that no step makes: measured only.
struct WantedContact {
    std::string a, b; ///< names of parts
    std::string fit;  ///< a named fit or a length
    bool operator==(const WantedContact&) const = default;
};

/// One end of a kept measurement: a face or an edge of a part by reference, or the whole part.
struct MeasuredThing {
    PartId part;
    GeometryItem reference; ///< a face or edge; empty: all of the part
    bool operator==(const MeasuredThing&) const = default;
};

/// A measurement that stays and follows the model.
struct KeptMeasure {
    MeasureId id;
    MeasuredThing a;
    std::optional<MeasuredThing> b; ///< none: how thick the wall is at the place of `a`, a face
    bool operator==(const KeptMeasure&) const = default;
};

/// A movement to be checked: a body led past others. As typed.
struct KeptMovement {
    MovementId id;
    std::string moving;                ///< a part, or "part/body"
    std::string still;                 ///< others by commas; empty: every other body
    std::string kind = "turn";         ///< turn, slide, screw or legs
    std::optional<MeasuredThing> axis; ///< a round face or edge (its axis), a flat face (its normal), a straight edge
    std::array<std::string, 3> point{"0 mm", "0 mm", "0 mm"}, direction{"0", "0", "1"}; ///< without one
    std::string from = "0", to = "180", step = "2";                                     ///< degrees, or mm for slides
    std::string pitch = "0 mm";                                                         ///< of a screw, a turn
    std::string legs;                                                                   ///< "slide 6, turn 30"
    std::string stands; ///< the position it is left at, within its ends (project/standing.h); empty: as drawn
    bool operator==(const KeptMovement&) const = default;
};

/// The project as it was at a moment, kept by a name.
struct KeptVersion {
    std::string name, date;                  ///< "before the wider brim", "2026-11-30"
    std::shared_ptr<const std::string> text; ///< its JSON, without versions of its own
    bool operator==(const KeptVersion&) const = default;
};
constexpr size_t most_versions = 50;

struct Project {
    std::string name = "Untitled";
    std::vector<Parameter> parameters;
    std::vector<PartPtr> parts;
    std::vector<WantedContact> contacts;
    std::vector<KeptMeasure> measures;
    std::vector<KeptMovement> movements;
    std::vector<PartId> assembly;      ///< in which order parts are put together; empty: worked out (assembly_order.h)
    std::vector<KeptVersion> versions; ///< the oldest first
    std::vector<NamedFit> fits = standard_fits();
    PrinterCard printer;
    MaterialCard material;
    BedSettings beds;
    PoseWeights pose_weights;
    std::map<std::string, std::shared_ptr<const std::string>> imports; ///< foreign files as they came, by name
    std::map<std::string, std::string> formulas; ///< of numbers of cards, fits and supports (typed_numbers.h)
    uint64_t next_id = 1;
    std::string extra; ///< see Step

    PartPtr part(PartId id) const;
    PartPtr part_named(const std::string& name) const;
    const Step* step(PartId part, StepId step) const;
};
using ProjectPtr = std::shared_ptr<const Project>;

/// Names of all that printed parts are made of: "PLA", "PLA and PETG".
std::string material_words(const Project& project);
/// What the part is printed of.
const MaterialCard& material_of(const Project& project, const Part& part);
/// The step of the part that a field means: by its name, else by its number; nothing when there is none.
const Step* step_called(const Part& part, const std::string& text);
/// A step of a kind with these fields; the others take their standards when it is added.
Step step_of_kind(const std::string& kind, const std::map<std::string, std::string>& fields = {},
                  const std::string& name = {});
/// The value of a field, or the kind's standard.
FieldValue field_value(const Step& step, const StepField& field);
/// The same as text.
std::string field_text(const Step& step, const StepField& field);
/// Whether it draws an outline.
bool draws(const Step& step);
/// The drawing of a step that draws an outline; a Problem for others, and where it cannot be read.
Expected<Drawing> drawing_of(const Step& step);
/// Gap of a fit field: a named fit of the project, or a typed length.
/// Between these parts: where the plastics they are printed of want other gaps for a named fit, the wider one.
Expected<ResolvedFit> resolve_fit_field(const Project& project, const std::string& text,
                                        const ContactSituation& situation, const ParameterValues& values,
                                        const std::vector<const Part*>& between = {});
/// What the numbers of a place say, its seats left out.
Expected<Transform> assembly_transform(const AssemblyPlace& place, const ParameterValues& values);
/// A place by numbers alone, to a thousandth of a micrometre and a millionth of a degree.
AssemblyPlace typed_place(const Transform& place);
/// The numbers of a part as they are now, as a variant keeps them: all quantities of its steps and the project's
/// numbers they use.
std::map<std::string, std::string> numbers_of_part(const Project& project, const Part& part);
/// The project with the numbers of a variant put in. Steps that are gone are passed over.
Project with_variant(const Project& project, PartId part, const Variant& variant);
/// The named numbers worked out, and the named fits as lengths under their names (in_place for in-place): what
/// expressions may use.
Expected<ParameterValues> project_values(const Project& project);

} // namespace lp
