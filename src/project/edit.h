// Edits: small values that say what changes where. The document answers with its next snapshot or a problem.
#pragma once
#include "project/project.h"
#include <any>
#include <type_traits>

namespace lp {

struct SetField {
    PartId part;
    StepId step;
    std::string field;
    FieldValue text;
};
/// The drawing of a step that draws an outline.
struct SetDrawing {
    PartId part;
    StepId step;
    Drawing drawing;
};
/// Makes the parameter when there is none of that name.
struct SetParameter {
    std::string name, expression;
    std::optional<QuantityKind> kind;
    std::optional<std::string> note;
};
/// The readings of a length or an angle; the number becomes what follows from them, if anything does.
struct SetReadings {
    std::string name;
    Readings readings;
};
struct RenameParameter {
    std::string from, to;
};
struct RemoveParameter {
    std::string name;
}; ///< refused, with the places, while in use
struct AddStep {
    PartId part;
    Step step;
    std::optional<size_t> index;
};
/// A step into another part. What it refers to in its own part (outlines, steps, faces) and is not there by that name
/// is let go: those fields take their standard, and the sentence says which.
struct CopyStep {
    PartId from;
    StepId step;
    PartId to;
    std::optional<size_t> index = {};
};
struct RemoveStep {
    PartId part;
    StepId step;
};
struct MoveStep {
    PartId part;
    StepId step;
    size_t index;
};
struct SwitchStep {
    PartId part;
    StepId step;
    bool on;
};
struct NameStep {
    PartId part;
    StepId step;
    std::string name;
};
/// Puts a run of steps into a group that folds; an empty name takes them out.
struct GroupSteps {
    PartId part;
    std::vector<StepId> steps;
    std::string group;
};
struct AddPart {
    Part part;
};
struct RemovePart {
    PartId part;
}; ///< refused, with the places, while steps of other parts use it
struct RenamePart {
    PartId part;
    std::string name;
};
struct SetQuantity {
    PartId part;
    int quantity;
};
struct SetColour {
    PartId part;
    std::string colour;
};
struct SetVisible {
    PartId part;
    bool visible;
};
struct SetSeeThrough {
    PartId part;
    bool see_through;
};
/// Whether it is a bought thing, or printed.
struct SetStandIn {
    PartId part;
    bool stand_in;
};
struct SetPose {
    PartId part;
    PrintPose pose;
};
/// What is wanted of the part's faces in print: these marks and no others (with_mark in marked_faces.h).
struct SetFaceMarks {
    PartId part;
    std::vector<MarkedFace> marks;
};
/// Where the part's meshes were brushed: these dabs and no others (with_dabs in bed/face_marks.h).
struct SetBrushed {
    PartId part;
    std::vector<BrushDab> dabs;
};
/// Where its print stops by hand: these and no others.
struct SetStops {
    PartId part;
    std::vector<StopByHand> stops;
};
/// Layers of other heights in the part.
struct SetBands {
    PartId part;
    std::vector<TypedBand> bands;
};
/// The way the part is led out of its place, leg by leg; empty: a straight one is looked for.
struct SetWayOut {
    PartId part;
    std::vector<TypedLeg> legs;
};
/// The way the part is pulled in use, in the design frame.
struct SetLoad {
    PartId part;
    std::optional<Vec3> load;
};
/// What the part is printed of; none: the project's material.
struct SetPartMaterial {
    PartId part;
    std::optional<MaterialCard> material;
};
struct SetPoseWeights {
    PoseWeights weights;
};
/// Where copies stand on the beds; the stands of the parts named are these and no others.
struct SetStands {
    std::map<PartId, BedStands> stands;
    size_t beds = 0; ///< above 0: they were arranged, on so many
};
/// Keeps the project as it is now under a name; one of that name is replaced.
struct KeepVersion {
    std::string name, date;
};
struct RemoveVersion {
    std::string name;
};
/// A number as a kept version has it, by the key of its difference (versions.h).
struct TakeFromVersion {
    std::string version, key;
};
/// In which order parts are put together: each named once; empty: it is worked out.
struct SetAssembly {
    std::vector<PartId> parts;
};
struct SetBeds {
    BedSettings beds;
};
struct SetPlace {
    PartId part;
    AssemblyPlace place;
};
/// Keeps the part's numbers as they are now under a name; one of that name is replaced.
struct KeepVariant {
    PartId part;
    std::string name;
};
struct UseVariant {
    PartId part;
    std::string name;
};
struct RemoveVariant {
    PartId part;
    std::string name;
};
struct AddMeasure {
    KeptMeasure measure;
};
struct RemoveMeasure {
    MeasureId measure;
};
/// The fit wanted between two bodies that no step makes; an empty fit takes the wish away.
struct SetContact {
    std::string a, b, fit;
};
struct AddMovement {
    KeptMovement movement;
};
/// The one with its id takes these values.
struct SetMovement {
    KeptMovement movement;
};
struct RemoveMovement {
    MovementId movement;
};
struct SetSupports {
    PartId part;
    SupportSettings supports;
};
struct SetFitGap {
    std::string name;
    double gap_mm;
};
/// A number of a card, a fit or supports by its key (typed_numbers.h), as typed: a formula stays one.
struct SetNumber {
    std::string key, typed;
};
struct SetPrinter {
    PrinterCard printer;
};
struct SetMaterial {
    MaterialCard material;
};
struct SetProjectName {
    std::string name;
};
/// A foreign file taken into the project; part of bringing a mesh in.
struct AddImport {
    std::string file;
    std::shared_ptr<const std::string> contents;
};

template <class... Kinds> struct EditKindList {
    template <class T> static constexpr bool has = (std::is_same_v<T, Kinds> || ...);
};
using EditKinds =
    EditKindList<SetField, SetDrawing, CopyStep, SetParameter, SetReadings, RenameParameter, RemoveParameter, AddStep,
                 RemoveStep, MoveStep, SwitchStep, NameStep, GroupSteps, AddPart, RemovePart, RenamePart, SetQuantity,
                 SetColour, SetVisible, SetSeeThrough, SetStandIn, SetPose, SetFaceMarks, SetBrushed, SetStops,
                 SetBands, SetWayOut, SetLoad, SetPartMaterial, SetPoseWeights, SetAssembly, KeepVersion, RemoveVersion,
                 TakeFromVersion, SetStands, SetBeds, SetPlace, KeepVariant, UseVariant, RemoveVariant, AddMeasure,
                 RemoveMeasure, SetContact, AddMovement, SetMovement, RemoveMovement, SetSupports, SetFitGap, SetNumber,
                 SetPrinter, SetMaterial, SetProjectName, AddImport>;
template <class T>
concept OneEdit = EditKinds::has<T>;

/// An edit of one of the kinds. No variant: every file that makes an edit would compile the copying of all kinds.
class SingleEdit {
  public:
    template <OneEdit T> SingleEdit(T what) : what_(std::move(what)) {}
    template <OneEdit T> const T* get_if() const { return std::any_cast<T>(&what_); }
    /// Calls it with the edit as what it is.
    template <class Call> void visit(Call call) const { visit(call, EditKinds()); }

  private:
    template <class Call, class... Kinds> void visit(Call& call, EditKindList<Kinds...>) const {
        (void)((get_if<Kinds>() ? (call(*get_if<Kinds>()), true) : false) || ...);
    }
    std::any what_;
};

/// One act of the maker: all of it or nothing.
struct Edit {
    std::vector<SingleEdit> parts;
    std::string sentence; ///< "Cylinder diameter to peg_d + 0.2"; made from the first part when empty
    Edit() = default;
    template <OneEdit T> Edit(T single) : parts{SingleEdit(std::move(single))} {}
};

struct Edited {
    ProjectPtr project;
    std::string sentence; ///< of the history: what was done
};

/// Checks and applies. Numbers must be readable, inside the field's limits, and parameters free of cycles.
Expected<Edited> apply_edit(const Project& project, const Edit& edit);

/// What a text typed into a quantity field means: "peg_d = 6" sets a parameter and uses it here.
Edit edit_from_typed(const Project& project, PartId part, StepId step, const std::string& field,
                     const std::string& typed);

/// A name not yet used by a part: "Bucket", "Bucket 2" ...
std::string free_part_name(const Project& project, const std::string& wanted);

} // namespace lp
