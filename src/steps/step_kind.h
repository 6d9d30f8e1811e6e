// A kind of step declares itself once: fields, sentence and evaluation. From that come the saved form, the sentence
// editor, the command line's `steps`, the offers and the documentation.
#pragma once
#include "base/expression.h"
#include "mesh/combine.h"
#include "outline/outline_shape.h"
#include "shape/face_reference.h"
#include <functional>
#include <map>

namespace lp {

/// What a field holds. The first four are quantities with expressions.
enum class FieldKind {
    Length,
    Angle,
    Count,
    Number,
    Choice,
    Bodies,
    Part,
    Fit,
    File,
    Text,
    Plane,    ///< xy, xz, yz, a face as words ("top of lid"), or a picked face
    Face,     ///< a picked face, or words; may be empty
    Steps,    ///< steps before this one, by name or number, by commas
    Faces,    ///< several, by semicolons; may be empty
    Edges,    ///< picked edges or words by semicolons: see find_edges()
    Outline,  ///< name or id of an outline step before this one; empty for the last
    Outlines, ///< several, by commas
    Regions,  ///< see chosen_regions()
    Drawing   ///< a drawing as JSON
};
const char* field_kind_name(FieldKind kind);
bool is_quantity(FieldKind kind);
QuantityKind quantity_of(FieldKind kind); ///< of the first four kinds

struct StepField {
    std::string name;
    FieldKind kind = FieldKind::Length;
    std::string standard;     ///< value taken when the step does not give one; empty = must be given
    double low = 0, high = 0; ///< limits of quantities, both included; low = high = 0 for none
    std::vector<std::string> choices;
    std::string hint;
};

/// An outline where it stands in the part.
struct PlacedOutline {
    uint64_t step = 0;
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
    uint64_t step = 0; ///< the step that gave it
    std::string fit;   ///< as typed
    double gap_mm = 0;
    Body envelope;
    std::optional<double> along_gap_mm = {}; ///< along one axis, where it is another one
};

/// Bodies of a part while its steps run, in the order they were made. The first is what simple steps join to and cut.
struct StepBody {
    uint64_t made_by = 0; ///< id of the step
    std::string name;     ///< the step's number or the name given to it
    Body body;
    std::vector<CarriedHalo> halos = {};
};

/// What a step joined on, cut away or kept: repeated by later steps. Made when it is asked for.
struct StepTool {
    Operation operation = Operation::Join;
    std::function<Expected<Body>()> body;
};

/// Everything a step may ask the project for while it is evaluated.
struct StepContext {
    uint64_t step_id = 0; ///< persistent: names the faces
    uint64_t copy = 0;    ///< tells copies of one step's faces apart (grown tools)
    double growth_mm = 0; ///< outside faces stand out by this much: the step is remade larger for a halo
    std::map<std::string, double> numbers;    ///< evaluated quantities, mm and degrees
    std::map<std::string, std::string> words; ///< choices, names and references
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
    ParameterValues parameters;                     ///< all named numbers
    double line_mm = 0.45, overhang_limit_deg = 45; ///< of the printer card
    std::vector<PlacedOutline> outlines;            ///< of the steps before, in their order
    std::function<Expected<FlatPaths>(const std::string& file)> import_paths;
    std::optional<StepPlace> nominal; ///< of this step in the part as it is, while growing it
    std::function<std::optional<uint64_t>(const std::string& name)> step_named; ///< id of a step of the part
    /// Tools of a step before this one; empty when it has none.
    std::function<std::vector<StepTool>(uint64_t step)> tools_of;
    /// Bodies of another part as they are after one of its steps (empty: after the last).
    std::function<Expected<std::vector<StepBody>>(const std::string& part, const std::string& after)> bodies_of;
    /// Takes a check of a result that may run while the next steps are made; a Problem undoes the step, and it is made
    /// again with its checks at once. Empty: checks run at once.
    std::function<void(std::function<std::optional<Problem>()> check)> check_later;
    Task task;
    bool cancelled() const { return task.stopped(); }
    double number(const char* name) const { return numbers.at(name); }
    const std::string& word(const char* name) const { return words.at(name); }
};

struct StepResult {
    std::vector<StepBody> bodies;       ///< all live bodies after the step
    std::string note;                   ///< what a person should know although it worked
    std::optional<StepPlace> place;     ///< the plane it was made on, what was drawn there
    std::optional<FieldCure> cure = {}; ///< what would do all of what was asked for
    std::vector<StepTool> tools = {};   ///< empty for steps that cannot be repeated
};

struct StepKind {
    std::string id;      ///< of the file format: "block"
    std::string title;   ///< of the offers: "Block"
    std::string purpose; ///< one line
    std::vector<StepField> fields;
    std::string sentence;     ///< words with fields in braces: "Block {size_x} by {size_y}"
    int version = 1;          ///< raise when the result changes: part of the cache key
    bool for_printer = false; ///< made for the printer card's line and overhang limit
    std::function<Expected<StepResult>(const std::vector<StepBody>& before, const StepContext& context)> evaluate;

    const StepField* field(const std::string& name) const;
};

/// Every kind, in the order they are offered.
const std::vector<StepKind>& step_kinds();
const StepKind* find_step_kind(const std::string& id);

/// Adds what a solid step made to the bodies as its `does` field says: join, cut, common or new.
Expected<StepResult> apply_solid(const std::vector<StepBody>& before, Body made, const StepContext& context);
/// What is wrong with a body in more pieces than before, and the step that names them. Nothing when all is well.
void tell_pieces(StepResult& result, size_t body, int before);
/// The fields every solid shares: where it stands, which way it points and what it does.
std::vector<StepField> placing_fields();
/// Makes a solid where its placing fields say and adds it as `does` says. The local z axis is turned to the `along`
/// field and moved to at_x, at_y, at_z of the plane or face in `on`; `drop` shifts it along the axis first.
Expected<StepResult> place_solid(const std::vector<StepBody>& before, const StepContext& context, double drop,
                                 const std::function<Expected<Body>(const Transform& at)>& make);
/// Height above the foot at which the solid's own origin lies for the `from` field: 0 (foot) or half the height.
double origin_drop(const StepContext& context, double height);

/// An edge of the part seen along a drawing's normal: a line, arc or circle; a Problem for other forms.
Expected<Curve> edge_in_plane(const EdgeInfo& edge, const Transform& plane);

// One a file.
StepKind block_kind();
StepKind cylinder_kind();
StepKind cone_kind();
StepKind sphere_kind();
StepKind prism_kind();
StepKind half_sphere_kind();
StepKind wedge_kind();
StepKind pyramid_kind();
StepKind ring_kind();
StepKind dome_kind();
StepKind outline_kind();
StepKind raise_kind();
StepKind revolve_kind();
StepKind sweep_kind();
StepKind loft_kind();
StepKind move_kind();
StepKind turn_kind();
StepKind join_kind();
StepKind cut_kind();
StepKind common_kind();
StepKind cut_with_kind();
StepKind bring_in_kind();
StepKind mend_kind();
StepKind fillet_kind();
StepKind chamfer_kind();
StepKind shell_kind();
StepKind draft_kind();
StepKind push_kind();
StepKind remove_faces_kind();
StepKind scale_kind();
StepKind mirror_kind();
StepKind align_kind();
StepKind seat_kind();
StepKind repeat_kind();
StepKind repeat_round_kind();
StepKind repeat_path_kind();
StepKind split_kind();
StepKind pieces_kind();
StepKind widen_kind();
StepKind take_kind();
StepKind leave_out_kind();
StepKind bend_kind();
StepKind skew_kind();
StepKind twist_kind();
StepKind taper_kind();
StepKind lie_on_kind();
StepKind rib_kind();
StepKind gusset_kind();
StepKind meet_kind();
StepKind full_round_kind();
StepKind halo_kind();
StepKind open_for_halos_kind();
StepKind hinge_kind();
StepKind chain_kind();
StepKind captive_pin_kind();
StepKind swivel_cap_kind();
StepKind captive_slider_kind();
StepKind lock_groove_kind();
StepKind lock_lugs_kind();
StepKind crop_kind();

} // namespace lp
