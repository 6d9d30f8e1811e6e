#include "project/split_for_bed.h"
#include "base/quantity.h"
#include "base/text.h"
#include "base/tolerance.h"
#include "mesh/cross_section.h"
#include "project/cure_places.h"
#include "project/pose_choices.h"
#include "project/seating.h"
#include "steps/splitting/pin_places.h"
#include <algorithm>
#include <set>

namespace lp {
namespace {

/// Square to an axis of the design; x and y as the planes "yz", "xz" and "xy" have them.
Transform plane_at(int axis, double at_mm) {
    Transform plane = Transform::Identity();
    if (axis == 1) plane.linear() << Vec3::UnitX(), Vec3::UnitZ(), -Vec3::UnitY();
    if (axis == 0) plane.linear() << Vec3::UnitY(), Vec3::UnitZ(), Vec3::UnitX();
    plane.translation() = at_mm * Vec3::Unit(axis);
    return plane;
}
const char* plane_called(int axis) {
    return axis == 0 ? "yz" : axis == 1 ? "xz" : "xy";
}
/// What the plane "xz" looks to is the front.
double along_plane(int axis, double at_mm) {
    return axis == 1 ? -at_mm : at_mm;
}

bool goes_on(Vec3 size, Vec3 bed_mm) {
    std::sort(size.data(), size.data() + 3);
    std::sort(bed_mm.data(), bed_mm.data() + 3);
    return (size.array() <= bed_mm.array() + tolerance::on_bed_mm).all();
}

double area_of(const std::vector<std::vector<Vec2>>& loops) {
    double area = 0;
    for (const auto& loop : loops)
        for (size_t i = 0; i < loop.size(); ++i) area += cross2(loop[i], loop[(i + 1) % loop.size()]) / 2;
    return area;
}

/// How many faces a plane goes through.
size_t faces_through(const TriMesh& mesh, int axis, double at_mm) {
    std::set<Tag> faces;
    for (size_t i = 0; i < mesh.triangles.size() && i < mesh.tags.size(); ++i) {
        double low = 1e300, high = -1e300;
        for (uint32_t v : mesh.triangles[i]) {
            low = std::min(low, mesh.vertices[v][axis]);
            high = std::max(high, mesh.vertices[v][axis]);
        }
        if (low < at_mm && high > at_mm) faces.insert(mesh.tags[i]);
    }
    return faces.size();
}

const Step* pinned_split_of(const Part& part) {
    for (auto step = part.steps.rbegin(); step != part.steps.rend(); ++step)
        if (step->kind == "pinned_split") return &*step;
    return nullptr;
}

/// The names of what the step made besides the half that stays.
struct Halves {
    std::string above;
    std::vector<std::string> pins;
};
std::optional<Halves> halves_of(const PartResult& made, StepId step) {
    Halves halves;
    for (const StepBody& body : made.bodies) {
        if (body.made_by != step) continue;
        if (halves.above.empty())
            halves.above = body.called();
        else
            halves.pins.push_back(body.called());
    }
    if (halves.above.empty()) return std::nullopt;
    return halves;
}

} // namespace

std::optional<BedSplit> best_bed_split(const TriMesh& mesh, const Vec3& bed_mm, const Task& task) {
    const Box3 box = bounding_box(mesh);
    struct Choice {
        BedSplit split;
        size_t faces;
    };
    std::vector<Choice> choices;
    for (int axis = 0; axis < 3; ++axis) {
        constexpr int places = 64;
        const double low = box.min()[axis], size = box.sizes()[axis];
        for (int k = 1; k < places; ++k) {
            if (task.stopped()) return std::nullopt;
            const double at = low + size * k / places;
            Vec3 below = box.sizes(), above = below;
            below[axis] = at - low;
            above[axis] = low + size - at;
            if (!goes_on(below, bed_mm) || !goes_on(above, bed_mm)) continue;
            const double area = area_of(cross_section(mesh, plane_at(axis, at)));
            if (area > 0) choices.push_back({{axis, at, area}, faces_through(mesh, axis, at)});
        }
    }
    if (choices.empty()) return std::nullopt;
    size_t fewest = choices.front().faces;
    for (const Choice& c : choices) fewest = std::min(fewest, c.faces);
    // Of the same worth: the one nearer to the middle, so that both halves are alike.
    auto worth = [&](const Choice& c) {
        const double off = std::fabs((c.split.at_mm - box.center()[c.split.axis]) / box.sizes()[c.split.axis]);
        return c.split.section_mm2 / (1 + 0.25 * double(c.faces - fewest)) * (1 - 0.02 * off);
    };
    return std::max_element(choices.begin(), choices.end(),
                            [&](const Choice& a, const Choice& b) { return worth(a) < worth(b); })
        ->split;
}

std::optional<FindingCure> split_for_bed(const Evaluation& evaluation, PartId id, const Task& task) {
    const auto posed = posed_of(evaluation, id);
    if (!posed) return std::nullopt;
    const PrinterCard& card = evaluation.project->printer;
    const auto split = best_bed_split(*posed->made->mesh, card.bed_mm, task);
    if (!split) return std::nullopt;
    std::map<std::string, std::string> fields{
        {"by", plane_called(split->axis)},
        {"distance", format_number(along_plane(split->axis, split->at_mm), 2) + " mm"},
        {"pins", "0"}};
    for (double across : {8.0, 6.0, 5.0, 4.0, 3.0}) {
        const double deep = std::min(12.0, 2 * across);
        const auto places = pin_places(*posed->made->mesh, plane_at(split->axis, split->at_mm),
                                       {across / 2 + 0.2 + 2 * card.line_mm(), deep + 0.5}, 2);
        if (places.size() < 2) continue;
        fields["pins"] = "2";
        fields["across"] = format_number(across) + " mm";
        fields["deep"] = format_number(deep) + " mm";
        break;
    }
    Edit edit = AddStep{id, step_of_kind("pinned_split", fields), {}};
    edit.sentence = "Split " + posed->part->name + " in two halves";
    return FindingCure{"Split with pins", posed->part->name + " at " + format_number(split->at_mm, 1) + " mm",
                       "Two halves that go on the bed, glued where the cut is large, with pins that line them up.",
                       edit, true};
}

size_t too_big_for_bed(const Evaluation& evaluation, PartId id) {
    const PartResult* made = evaluation.part(id);
    if (!made) return 1;
    return size_t(std::count_if(made->bodies.begin(), made->bodies.end(), [&](const StepBody& body) {
        return !goes_on(body.body.box().sizes(), evaluation.project->printer.bed_mm);
    }));
}

void take_halves_out(const Evaluation& made, PartId id, Edit& edit) {
    const PartPtr part = made.project->part(id);
    const PartResult* result = made.part(id);
    const Step* step = part ? pinned_split_of(*part) : nullptr;
    const auto halves = step && result ? halves_of(*result, step->id) : std::nullopt;
    if (!halves) return;
    const auto plane = step->fields.find("by");
    const std::string by = plane == step->fields.end() ? "xy" : plane->second.text();
    const Vec3 normal = by == "yz" ? Vec3::UnitX() : by == "xz" ? Vec3(-Vec3::UnitY()) : Vec3::UnitZ();
    auto taken = [&](const std::string& name, const std::string& what) {
        Part piece;
        piece.name = free_part_name(*made.project, name);
        piece.quantity = part->quantity;
        piece.colour = part->colour;
        piece.material = part->material;
        piece.place = place_without_seats(*part, result->place);
        piece.steps.push_back(
            step_of_kind("take", {{"from", part->name}, {"what", what}, {"after", to_text(step->id)}}));
        return piece;
    };
    std::vector<std::string> gone = halves->pins;
    gone.push_back(halves->above);
    Part above = taken(part->name + ", above", halves->above);
    above.pose = pose_with_up(normal);
    edit.parts.push_back(AddPart{above});
    edit.parts.push_back(SetPose{id, pose_with_up(-normal)});
    if (!halves->pins.empty()) {
        Part pins = taken(part->name + ", pins", joined(halves->pins));
        const Vec3 lying = by == "xy" ? Vec3::UnitX() : Vec3::UnitZ();
        pins.pose = pose_with_up(lying);
        edit.parts.push_back(AddPart{pins});
        const std::string fit = step->fields.count("fit") ? step->fields.at("fit").text() : "press";
        edit.parts.push_back(SetContact{pins.name, part->name, fit});
        edit.parts.push_back(SetContact{pins.name, above.name, fit});
    }
    edit.parts.push_back(AddStep{id, step_of_kind("leave_out", {{"what", joined(gone)}}), {}});
}

std::string halves_words(const Evaluation& made, PartId id) {
    const PartPtr part = made.project->part(id);
    const PartResult* result = made.part(id);
    const Step* step = part ? pinned_split_of(*part) : nullptr;
    const auto halves = step && result ? halves_of(*result, step->id) : std::nullopt;
    if (!halves) return {};
    double longest = 0;
    for (const StepBody& body : result->bodies) longest = std::max(longest, body.body.box().sizes().maxCoeff());
    return "Two halves, the longer " + format_quantity(longest, QuantityKind::Length, 1) + ", with " +
           counted(halves->pins.size(), "loose pin", "loose pins") + "; they lie on the faces that are glued.";
}

} // namespace lp
