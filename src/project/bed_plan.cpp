#include "project/bed_plan.h"
#include "base/text.h"
#include "base/tolerance.h"
#include "bed/bed_rows.h"

namespace lp {

constexpr int most_copies = 1000; // as many as a part can have

Box3 turned_box(const TriMesh& mesh, double turn_deg) {
    const Transform turn(Eigen::AngleAxisd(radians(turn_deg), Vec3::UnitZ()));
    Box3 box;
    for (const Vec3& v : mesh.vertices) box.extend(turn * v);
    return box;
}

std::optional<Problem> check_stand(int copy, const BedStand& stand) {
    constexpr double farthest_mm = 10'000;
    const BedSpot& spot = stand.spot;
    if (copy < 0 || copy >= 1000 || spot.bed >= 1000)
        return Problem{ProblemCode::Range, "Copies and beds are counted below 1000.", "Arrange everything anew."};
    if (!(spot.at.cwiseAbs().maxCoeff() <= farthest_mm) || !std::isfinite(spot.turn_deg))
        return Problem{ProblemCode::Range, "A place on the bed is a number of mm from its front left corner.",
                       "Type such a number."};
    return std::nullopt;
}

/// From outline to outline.
static double room_between(const Project& project) {
    return project.beds.one_at_a_time ? std::max(project.beds.spacing_mm, project.printer.head_reach_mm)
                                      : project.beds.spacing_mm;
}

static void put_in_rows(BedPlan& plan, const std::vector<size_t>& rest, const std::vector<Box3>& boxes,
                        const Project& project) {
    const Vec3 bed_mm = project.printer.bed_mm;
    std::vector<Vec3> sizes;
    for (size_t i : rest) sizes.push_back(boxes[i].sizes());
    const auto places = places_in_rows(
        sizes, bed_mm, project.beds.one_at_a_time ? std::max(room_in_rows_mm, room_between(project)) : room_in_rows_mm);
    std::vector<Box2> used; // what stands on a bed is shown in its middle
    for (size_t k = 0; k < rest.size(); ++k) {
        used.resize(std::max(used.size(), places[k].bed + 1));
        const Vec2 half = sizes[k].head<2>() / 2, at = places[k].at.head<2>();
        used[places[k].bed].extend(Vec2(at - half));
        used[places[k].bed].extend(Vec2(at + half));
    }
    size_t first = 0;
    for (const BedItem& item : plan.items)
        if (item.put) first = std::max(first, item.spot.bed + 1);
    for (size_t k = 0; k < rest.size(); ++k)
        plan.items[rest[k]].spot = {first + places[k].bed,
                                    places[k].at.head<2>() - used[places[k].bed].center() + bed_mm.head<2>() / 2, 0};
}

BedPlan bed_plan(const Project& project, const BoxOnBed& box_on_bed) {
    BedPlan plan;
    std::vector<Box3> boxes;
    std::vector<size_t> rest;
    for (const PartPtr& part : project.parts) {
        if (part->stand_in) continue;
        const Box3 straight = box_on_bed(*part, 0);
        if (straight.isEmpty()) continue;
        for (int copy = 0; copy < std::clamp(part->quantity, 0, most_copies); ++copy) {
            const auto stand = part->stands.find(copy);
            BedItem item{part->id, copy, {}, stand != part->stands.end(), false, Transform::Identity(), 0, false};
            if (item.put) {
                item.spot = stand->second.spot;
                item.locked = stand->second.locked;
            } else {
                rest.push_back(plan.items.size());
            }
            boxes.push_back(item.put && item.spot.turn_deg != 0 ? box_on_bed(*part, item.spot.turn_deg) : straight);
            plan.items.push_back(item);
        }
    }
    put_in_rows(plan, rest, boxes, project);
    for (size_t i = 0; i < plan.items.size(); ++i) {
        BedItem& item = plan.items[i];
        const Transform turn(Eigen::AngleAxisd(radians(item.spot.turn_deg), Vec3::UnitZ()));
        const Vec2 by = item.spot.at - boxes[i].center().head<2>();
        // What stands on a raft is lifted by it.
        const double below = boxes[i].min().z(), lift = below < -tolerance::same_mm ? -below : 0;
        item.stand = Eigen::Translation3d(by.x(), by.y(), lift) * turn;
        const Vec2 half = boxes[i].sizes().head<2>() / 2, bed = project.printer.bed_mm.head<2>();
        item.wide_mm = boxes[i].sizes().x();
        constexpr double slack_mm = 1e-6;
        item.past_border =
            (item.spot.at - half).minCoeff() < -slack_mm || (bed - item.spot.at - half).minCoeff() < -slack_mm;
        plan.beds = std::max(plan.beds, item.spot.bed + 1);
    }
    return plan;
}

/// Too near to another thing of its bed; or too tall for the head to pass over, and not the last that is printed.
static std::vector<bool> under_the_head(const Project& project, const BedPlan& plan,
                                        const std::vector<ArrangeItem>& items, const Task& task) {
    std::vector<bool> under = standing_in_another(items, project.printer.bed_mm.head<2>(), task, room_between(project));
    std::map<size_t, std::pair<double, size_t>> tallest; // of each bed
    for (size_t i = 0; i < items.size(); ++i) {
        const std::pair mine(height_of(*items[i].posed), i);
        auto [at, fresh] = tallest.try_emplace(plan.items[i].spot.bed, mine);
        if (!fresh) at->second = std::max(at->second, mine);
    }
    for (size_t i = 0; i < items.size(); ++i)
        if (height_of(*items[i].posed) > project.printer.head_passes_mm && tallest[plan.items[i].spot.bed].second != i)
            under[i] = true;
    return under;
}

std::vector<BedTrouble> bed_troubles(const Project& project, const std::vector<BedThing>& things, const Task& task) {
    std::map<PartId, const TriMesh*> posed;
    for (const BedThing& thing : things) posed[thing.part] = &thing.posed;
    const BedPlan plan = bed_plan(project, [&](const Part& part, double turn_deg) {
        auto mesh = posed.find(part.id);
        return mesh == posed.end() ? Box3() : turned_box(*mesh->second, turn_deg);
    });
    std::vector<BedTrouble> troubles;
    if (!project.beds.one_at_a_time &&
        std::none_of(plan.items.begin(), plan.items.end(), [](const BedItem& item) { return item.put; }))
        return troubles;
    std::vector<ArrangeItem> items;
    for (const BedItem& item : plan.items) items.push_back({.posed = posed.at(item.part), .locked = item.spot});
    const std::vector<bool> within = standing_in_another(items, project.printer.bed_mm.head<2>(), task);
    const std::vector<bool> under = project.beds.one_at_a_time ? under_the_head(project, plan, items, task)
                                                               : std::vector<bool>(items.size(), false);
    for (size_t i = 0; i < items.size(); ++i)
        if (const BedItem& item = plan.items[i]; item.past_border || within[i] || under[i])
            troubles.push_back({item.part, item.copy, item.spot.bed, item.past_border, within[i], under[i]});
    return troubles;
}

std::vector<BedItem> in_printing_order(const Project& project, std::vector<BedItem> items,
                                       const std::function<double(PartId)>& height_mm) {
    if (project.beds.one_at_a_time)
        std::stable_sort(items.begin(), items.end(), [&](const BedItem& a, const BedItem& b) {
            return std::pair(a.spot.bed, height_mm(a.part)) < std::pair(b.spot.bed, height_mm(b.part));
        });
    return items;
}

Expected<SetStands> arrange_beds(const Project& project, const std::vector<BedThing>& things, const Task& task) {
    struct Which {
        PartPtr part;
        int copy;
    };
    std::vector<Which> which;
    std::vector<ArrangeItem> items;
    for (const BedThing& thing : things) {
        const PartPtr part = project.part(thing.part);
        if (!part || part->stand_in || thing.posed.empty()) continue;
        for (int copy = 0; copy < std::clamp(part->quantity, 0, most_copies); ++copy) {
            ArrangeItem item{.posed = &thing.posed,
                             .group =
                                 material_of(project, *part).name + (project.beds.colours_apart ? part->colour : "")};
            if (auto stand = part->stands.find(copy); stand != part->stands.end() && stand->second.locked)
                item.locked = stand->second.spot;
            which.push_back({part, copy});
            items.push_back(item);
        }
    }
    if (items.empty())
        return problem(ProblemCode::Missing, "There is nothing to arrange.",
                       "Stand-ins are never printed: add a part.");
    ArrangeOptions options;
    options.bed_mm = project.printer.bed_mm.head<2>();
    options.spacing_mm = room_between(project);
    if (project.beds.one_at_a_time) options.passes_over_mm = project.printer.head_passes_mm;
    auto found = arrange(items, options, task);
    if (!found) return pass_on(found);
    SetStands edit;
    edit.beds = found->beds;
    std::string left_out;
    for (size_t i = 0; i < items.size(); ++i) {
        if (!found->spots[i]) {
            const std::string name = "\"" + which[i].part->name + "\"";
            if (!left_out.ends_with(name)) left_out.append(left_out.empty() ? "" : ", ").append(name);
            continue;
        }
        edit.stands[which[i].part->id][which[i].copy] = {*found->spots[i], items[i].locked.has_value()};
    }
    if (!left_out.empty())
        return problem(ProblemCode::Range, left_out + ": larger than the bed, however it is turned.",
                       "Split it, lay it another way, or set the size of the bed in the printer card.");
    return edit;
}

} // namespace lp
