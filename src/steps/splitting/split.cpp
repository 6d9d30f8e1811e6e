// Splits by a plane, a face or a drawn line.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "base/turn_between.h"
#include "outline/chains.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/find_plane.h"
#include "steps/pick_bodies.h"
#include "steps/solids/profile_shape.h"
#include "steps/splitting/parting.h"
#include <algorithm>
#include <future>

namespace lp {
namespace {

/// What lies on one side of the parting, larger than all bodies.
class Side {
  public:
    static Expected<Side> of(const std::vector<StepBody>& before, const StepContext& context, double reach_mm) {
        Side side(context, reach_mm);
        if (const std::string& name = context.word("outline"); !name.empty()) {
            auto outline = find_outline(context, name);
            if (!outline) return pass_on(outline);
            side.plane_ = (*outline)->plane;
            auto regions = regions_left_of(**outline, reach_mm);
            if (!regions) return pass_on(regions);
            side.regions_ = std::move(*regions);
            return side;
        }
        if (auto round = find_face(before, context, context.value("by"), true)) {
            const Body& owner = before[round->body].body;
            if (owner.tessellation().faces[round->face].kind != SurfaceKind::Plane)
                return side.take_round(*round, owner);
        }
        auto plane = find_plane(before, context, context.value("by"));
        if (!plane) return pass_on(plane);
        side.plane_ = *plane;
        side.plane_.translate(Vec3(0, 0, context.number("distance")));
        if (context.nominal) side.plane_ = context.nominal->plane;
        return side;
    }

    /// The space above the plane, or on the left of the line; moved back by `shift` so that more is inside.
    Expected<Body> above(double shift) const {
        TagSource source = context_.source();
        if (!regions_.empty()) {
            auto wider = grown_regions(regions_, shift);
            if (!wider) return pass_on(wider);
            return raised_body(*wider, -reach_, reach_, 0, plane_, source);
        }
        Transform at = plane_;
        at.translate(Vec3(-reach_, -reach_, -shift));
        return make_block({2 * reach_, 2 * reach_, 2 * reach_}, at, source);
    }
    struct Halves {
        Combined upper, lower;
    };
    /// A body in two. Both at once where they part at one face; side by side otherwise, as each kernel call has a
    /// helper of its own. NothingLeft when all of it is on one side.
    Expected<Halves> halves(const Body& body) const {
        if (context_.growth_mm == 0 && body.is_exact()) {
            auto tool = round_ ? within(0) : above(0);
            if (!tool) return pass_on(tool);
            auto parted = tool->is_exact() ? part_exact(body, *tool, context_.task)
                                           : problem(ProblemCode::Geometry, "The parting is made of triangles.");
            if (parted && round_) return Halves{{parted->outside, {}}, {parted->inside, {}}};
            if (parted) return Halves{{parted->inside, {}}, {parted->outside, {}}};
            if (context_.cancelled()) return pass_on(parted);
            // All on one side, or a kernel that found nothing where there is something: the two booleans will tell.
        }
        auto other = std::async(std::launch::async, [&] { return upper(body); });
        auto lower_half = lower(body), upper_half = other.get();
        if (!upper_half) return pass_on(upper_half);
        if (!lower_half) return pass_on(lower_half);
        return Halves{*upper_half, *lower_half};
    }

    StepPlace place() const {
        StepPlace place{plane_, {}, {}};
        if (round_ && !whole_) place.span_mm = {radius_, 0};
        return place;
    }
    /// The body whose own surface parts; nothing for planes, lines, cylinders and balls.
    std::optional<size_t> whole_body() const { return whole_ ? std::optional(owner_) : std::nullopt; }

  private:
    /// What of a body is above (outside a round parting) and below; both a little more for a grown part.
    Expected<Combined> upper(const Body& body) const {
        double g = context_.growth_mm;
        auto tool = round_ ? within(-g) : above(g);
        if (!tool) return pass_on(tool);
        return combine(round_ ? Operation::Cut : Operation::Common, body, {*tool}, context_.task);
    }
    Expected<Combined> lower(const Body& body) const {
        double g = context_.growth_mm;
        auto tool = round_ ? within(g) : above(-g);
        if (!tool) return pass_on(tool);
        return combine(round_ ? Operation::Common : Operation::Cut, body, {*tool}, context_.task);
    }

    Side(const StepContext& context, double reach) : context_(context), reach_(reach) {}

    /// A cylinder carried on both ways, a ball, or for other faces the body they belong to.
    Expected<Side> take_round(const FoundFace& found, const Body& owner) {
        const FaceInfo& face = owner.tessellation().faces[found.face];
        round_ = true;
        owner_ = found.body;
        ball_ = face.kind == SurfaceKind::Sphere;
        if ((!ball_ && face.kind != SurfaceKind::Cylinder) || !owner.is_exact()) {
            if (context_.growth_mm != 0 || context_.number("distance") != 0)
                return problem(ProblemCode::Geometry, "Only planes, cylinders and balls part at a distance.",
                               "Part by the face itself, or by one of those.");
            whole_ = owner;
            return *this;
        }
        plane_ = frame_along(face.direction);
        plane_.translation() = face.axis_point;
        radius_ = face.radius_mm + context_.number("distance");
        if (context_.nominal && context_.nominal->span_mm) {
            plane_ = context_.nominal->plane;
            radius_ = context_.nominal->span_mm->first;
        }
        if (!(radius_ > tolerance::smallest_mm))
            return problem(ProblemCode::Range, "At that distance nothing is left of the round parting.",
                           "Use a smaller distance inward.");
        return *this;
    }

    /// What the round parting encloses, larger by `more`.
    Expected<Body> within(double more) const {
        if (whole_) return *whole_;
        TagSource source = context_.source();
        if (ball_) return make_sphere(radius_ + more, plane_, source);
        Transform at = plane_;
        at.translate(Vec3(0, 0, -reach_));
        return make_cylinder(radius_ + more, 2 * reach_, at, source);
    }

    bool round_ = false, ball_ = false;
    double radius_ = 0;
    size_t owner_ = 0;
    std::optional<Body> whole_;
    const StepContext& context_;
    double reach_;
    Transform plane_ = Transform::Identity();
    std::vector<FlatRegion> regions_;
};

} // namespace

StepKind split_kind() {
    StepKind kind;
    kind.id = "split";
    kind.title = "Split";
    kind.purpose = "Parts bodies by a plane, a face (flat or round) or a drawn line, and keeps one side or both.";
    kind.fields = parting_fields(
        {StepField{
             "outline", FieldKind::Outline, "", 0, 0, {}, "a drawn line or figure that parts them instead of the plane"}
             .optional("none"),
         {"keep",
          FieldKind::Choice,
          "both",
          0,
          0,
          {"both", "above", "below"},
          "above: where the plane looks to, outside a round face, left of the line, inside a figure"}});
    kind.sentence = "Split {what} by {by}[ at {distance}][, along {outline}], keep {keep}";
    kind.group = StepGroup::Splitting;
    kind.synonyms = {"divide", "cut", "in", "two"};
    kind.offers = {{.when = Chosen::Face, .place = 50, .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "split");
        if (!chosen) return pass_on(chosen);
        auto side = Side::of(before, context, reach_beyond(before));
        if (!side) return pass_on(side);
        const std::string& keep = context.word("keep");
        if (auto tool = side->whole_body()) std::erase(*chosen, *tool); // it stays as it is
        StepResult result{before, {}, {}};
        size_t parted = 0;
        std::vector<StepBody> uppers;
        for (size_t i : *chosen) {
            if (context.cancelled()) return cancelled();
            const Body& body = before[i].body;
            auto halves = side->halves(body);
            if (!halves) {
                if (halves.error().code != ProblemCode::NothingLeft) return pass_on(halves);
                continue; // all of it on one side
            }
            ++parted;
            if (!halves->upper.note.empty()) result.note = halves->upper.note;
            if (keep == "above") {
                result.bodies[i].body = halves->upper.body;
                continue;
            }
            result.bodies[i].body = halves->lower.body;
            if (keep == "both") {
                std::string name = context.name;
                if (name.empty() && !before[i].name.empty()) name = before[i].name + " above";
                uppers.push_back({context.step_id, name, halves->upper.body});
            }
        }
        if (!parted)
            return problem(ProblemCode::Geometry, "The parting misses the body: nothing is split.",
                           "Move it, or turn the plane.");
        result.bodies.insert(result.bodies.end(), uppers.begin(), uppers.end());
        result.place = side->place();
        return result;
    };
    return kind;
}

} // namespace lp
