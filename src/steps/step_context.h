// What a step is given while it is made, and what it answers.
#pragma once
#include "base/expression.h"
#include "mesh/combine.h"
#include "outline/outline_shape.h"
#include "shape/exact_solids.h"
#include "steps/field_value.h"
#include <functional>
#include <map>

namespace lp {

/// An outline where it stands in the part.
struct PlacedOutline {
    StepId step;
    std::string name;
    Transform plane = Transform::Identity(); ///< x, y of the drawing, z out of it
    std::shared_ptr<const OutlineShape> shape;
};

/// Where a step was made. A part that is remade larger for a gap takes these from the part as it is, so that only the
/// material grows.
struct StepPlace {
    Transform plane = Transform::Identity();
    std::optional<PlacedOutline> outline;             ///< drawn by this step
    std::optional<std::pair<double, double>> span_mm; ///< from where to where it was raised along the plane's z
};

/// An envelope at a fit's gap round a body, or round what the body was when it was given the halo. It travels with its
/// body, and is what others are opened by.
struct CarriedHalo {
    StepId step;     ///< the step that gave it
    std::string fit; ///< as typed
    double gap_mm = 0;
    Body envelope;
    std::optional<double> along_gap_mm = {}; ///< along one axis, where it is another one
};

/// Where a body is printed without hollows, whatever the infill. It travels with the body; what of it lies outside the
/// body means nothing.
struct SolidInside {
    Body where;
    double around_mm = 0; ///< sideways round it too
};

/// What of a body is meant to bend: it holds when the lines it is printed of run along it. It travels with its body.
struct Bending {
    StepId step; ///< that made it
    Vec3 root = Vec3::Zero();
    Vec3 along = Vec3::UnitZ(); ///< unit: from the root to the tip
};

/// Bodies of a part while its steps run, in the order they were made. The first is what simple steps join to and cut.
struct StepBody {
    StepId made_by;
    std::string name; ///< given to the step or by it; may be empty
    Body body;
    std::vector<CarriedHalo> halos = {};
    std::vector<SolidInside> solids = {};
    std::vector<Bending> bends = {};

    /// What fields call it: its name, or the number of the step that made it.
    std::string called() const { return name.empty() ? to_text(made_by) : name; }
};

/// What a step joined on, cut away or kept: repeated by later steps. Made when it is asked for.
struct StepTool {
    Operation operation = Operation::Join;
    std::function<Expected<Body>()> body;
};

/// Everything a step may ask the project for while it is evaluated.
struct StepContext {
    StepId step_id;       ///< persistent: names the faces
    uint64_t copy = 0;    ///< tells copies of one step's faces apart (grown tools)
    double growth_mm = 0; ///< outside faces stand out by this much: the step is remade larger for a halo
    std::string name;     ///< given to the step by the maker; may be empty
    std::map<std::string, double> numbers;   ///< evaluated quantities, mm and degrees
    std::map<std::string, FieldValue> words; ///< choices, names, drawings and references
    /// Body of a part with every outside face grown by a gap; fails when that cannot be made.
    std::function<Expected<Body>(const std::string& part, double growth_mm)> part_body;
    /// Bodies of a part as it is, where it stands beside this one. It is made anyway: asking costs nothing.
    std::function<Expected<std::vector<Body>>(const std::string& part)> part_as_it_is;
    /// The bodies before this step, all of them remade larger by a gap on every face; a Problem when one cannot be.
    std::function<Expected<std::vector<StepBody>>(double growth_mm)> remade;
    /// Gap a face for a fit by name, or a length typed in its place; for a part that goes in (stand-in or printed), or
    /// an empty name for a printed thing in a printed one.
    std::function<Expected<double>(const std::string& fit, const std::string& tool_part)> fit_gap;
    std::function<Expected<TriMesh>(const std::string& file)> import_mesh;
    /// Bodies of a file that tells them apart, with their names: exact ones, and objects of triangles where there are
    /// several. None of a file that is one mesh.
    std::function<Expected<std::vector<std::pair<std::string, Body>>>(const std::string& file)> import_bodies;
    ParameterValues parameters;                             ///< all named numbers
    double line_mm = 0.45, overhang_limit_deg = 45;         ///< of the printer card
    double first_layer_mm = 0.2, first_layer_gap_mm = 0.45; ///< narrower gaps are closed by the first layer
    double modulus_mpa = 2000, strain_percent = 2;          ///< of the material card of its part
    std::vector<PlacedOutline> outlines;                    ///< of the steps before, in their order
    std::function<Expected<FlatPaths>(const std::string& file)> import_paths;
    std::optional<StepPlace> nominal; ///< of this step in the part as it is, while growing it
    std::function<std::optional<StepId>(const std::string& name)> step_named; ///< id of a step of the part
    /// Tools of a step before this one; empty when it has none.
    std::function<std::vector<StepTool>(StepId step)> tools_of;
    /// Bodies of another part as they are after one of its steps (empty: after the last).
    std::function<Expected<std::vector<StepBody>>(const std::string& part, const std::string& after)> bodies_of;
    Task task;

    bool cancelled() const { return task.stopped(); }
    double number(const char* field) const { return numbers.at(field); }
    const std::string& word(const char* field) const { return words.at(field); }
    const FieldValue& value(const char* field) const { return words.at(field); }
    /// Names the faces of what this step makes.
    TagSource source() const { return {step_id, copy}; }
};

/// Where a number of a step stands in the picture, so that it can be drawn out by hand there. In the part's frame.
struct SizeHandle {
    enum class Shape { Arrow, Ring, Dial };
    std::string field;
    Shape shape = Shape::Arrow;
    Vec3 from = Vec3::Zero(); ///< where the size begins; the middle of a ring or a dial
    Vec3 way = Vec3::UnitZ(); ///< unit: where it grows to; the axis of a ring or a dial
    double gain = 1;          ///< what a mm along `way` (of a ring: of its radius) adds to the number
};

struct StepResult {
    std::vector<StepBody> bodies;         ///< all live bodies after the step
    std::string note;                     ///< what a person should know although it worked
    std::optional<StepPlace> place;       ///< the plane it was made on, what was drawn there
    std::optional<FieldCure> cure = {};   ///< what would do all of what was asked for
    std::vector<StepTool> tools = {};     ///< empty for steps that cannot be repeated
    bool in_part = false;                 ///< made for some of what was asked for; the note names the rest
    std::vector<SizeHandle> handles = {}; ///< of its numbers that can be drawn out by hand
};

/// What is wrong with a body in more pieces than before, and the step that names them. Nothing when all is well.
void tell_pieces(StepResult& result, size_t body, int before);

} // namespace lp
