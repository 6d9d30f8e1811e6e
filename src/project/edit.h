// Edits: small values that say what changes where. The document answers with its next snapshot or a problem.
#pragma once
#include "project/project.h"
#include <variant>

namespace lp {

struct SetField {
    uint64_t part, step;
    std::string field, text;
};
/// Makes the parameter when there is none of that name.
struct SetParameter {
    std::string name, expression;
    std::optional<QuantityKind> kind;
    std::optional<std::string> note;
};
struct RenameParameter {
    std::string from, to;
};
struct RemoveParameter {
    std::string name;
}; ///< refused, with the places, while in use
struct AddStep {
    uint64_t part;
    Step step;
    std::optional<size_t> index;
};
struct RemoveStep {
    uint64_t part, step;
};
struct MoveStep {
    uint64_t part, step;
    size_t index;
};
struct SwitchStep {
    uint64_t part, step;
    bool on;
};
struct NameStep {
    uint64_t part, step;
    std::string name;
};
/// Puts a run of steps into a group that folds; an empty name takes them out.
struct GroupSteps {
    uint64_t part;
    std::vector<uint64_t> steps;
    std::string group;
};
struct AddPart {
    Part part;
};
struct RemovePart {
    uint64_t part;
}; ///< refused while another part is cut with it
struct RenamePart {
    uint64_t part;
    std::string name;
};
struct SetQuantity {
    uint64_t part;
    int quantity;
};
struct SetColour {
    uint64_t part;
    std::string colour;
};
struct SetVisible {
    uint64_t part;
    bool visible;
};
struct SetSeeThrough {
    uint64_t part;
    bool see_through;
};
struct SetPose {
    uint64_t part;
    PrintPose pose;
};
struct SetPlace {
    uint64_t part;
    AssemblyPlace place;
};
/// Keeps the part's numbers as they are now under a name; one of that name is replaced.
struct KeepVariant {
    uint64_t part;
    std::string name;
};
struct UseVariant {
    uint64_t part;
    std::string name;
};
struct RemoveVariant {
    uint64_t part;
    std::string name;
};
struct AddMeasure {
    KeptMeasure measure;
};
struct RemoveMeasure {
    uint64_t measure;
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
    uint64_t movement;
};
struct SetSupports {
    uint64_t part;
    SupportSettings supports;
};
struct SetFitGap {
    std::string name;
    double gap_mm;
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

using SingleEdit =
    std::variant<SetField, SetParameter, RenameParameter, RemoveParameter, AddStep, RemoveStep, MoveStep, SwitchStep,
                 NameStep, GroupSteps, AddPart, RemovePart, RenamePart, SetQuantity, SetColour, SetVisible,
                 SetSeeThrough, SetPose, SetPlace, KeepVariant, UseVariant, RemoveVariant, AddMeasure, RemoveMeasure,
                 SetContact, AddMovement, SetMovement, RemoveMovement, SetSupports, SetFitGap, SetPrinter, SetMaterial,
                 SetProjectName, AddImport>;

/// One act of the maker: all of it or nothing.
struct Edit {
    std::vector<SingleEdit> parts;
    std::string sentence; ///< "Cylinder diameter to peg_d + 0.2"; made from the first part when empty
    Edit() = default;
    template <class T> Edit(T single) : parts{SingleEdit(std::move(single))} {}
};

struct Edited {
    ProjectPtr project;
    std::string sentence; ///< of the history: what was done
};

/// Checks and applies. Numbers must be readable, inside the field's limits, and parameters free of cycles.
Expected<Edited> apply_edit(const Project& project, const Edit& edit);

/// What a text typed into a quantity field means: "peg_d = 6" sets a parameter and uses it here.
Edit edit_from_typed(const Project& project, uint64_t part, uint64_t step, const std::string& field,
                     const std::string& typed);

/// A name not yet used by a part: "Bucket", "Bucket 2" ...
std::string free_part_name(const Project& project, const std::string& wanted);

} // namespace lp
