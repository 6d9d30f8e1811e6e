// A twist lock: lugs on one part, and in the other a groove that they are led along, laid on a cylinder.
#include "base/tolerance.h"
#include "outline/curve.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/joint_parts.h"
#include "steps/legs.h"
#include "steps/pick_bodies.h"
#include "steps/profile_shape.h"

namespace lp {
namespace {

std::vector<StepField> lock_fields(std::vector<StepField> own) {
    const double far = tolerance::largest_mm;
    std::vector<StepField> all{
        {"what", FieldKind::Bodies, "all", 0, 0, {}, "the body it goes to, by step number or name"},
        {"radius", FieldKind::Length, "20 mm", 1, 1e4, {}, "of the wall between the parts"},
        {"depth", FieldKind::Length, "2 mm", 0.3, 1e3, {}, "how far the lugs stand out of the wall"},
        {"width", FieldKind::Length, "4 mm", 0.5, 1e3, {}, "of the lugs"},
        {"count", FieldKind::Count, "3", 1, 60, {}, "lugs round the wall"},
        {"side", FieldKind::Choice, "outward", 0, 0, {"outward", "inward"}, "which way the lugs stand"},
        {"angle", FieldKind::Angle, "0 deg", -3600, 3600, {}, "of the first lug, from x"},
        {"at_z", FieldKind::Length, "0 mm", -far, far, {}, "height of the lugs' middle"},
        {"at_x", FieldKind::Length, "0 mm", -far, far, {}, "of the axis"},
        {"at_y", FieldKind::Length, "0 mm", -far, far, {}, "of the axis"}};
    for (StepField& field : own) all.push_back(std::move(field));
    return all;
}

/// The lug's space swept along the legs, all pieces for one lug; `gap` larger all round.
class Track {
  public:
    Track(const StepContext& context, double gap)
        : c_(context), gap_(gap), half_(context.number("width") / 2 + gap),
          outward_(context.word("side") == "outward") {
        double r = context.number("radius"), depth = context.number("depth") + gap;
        // As deep as it goes on the lug's side; through the wall's face on the other.
        low_ = std::max(0.05, outward_ ? r - gap - 0.5 : r - depth);
        high_ = outward_ ? r + depth : r + gap + 0.5;
    }

    std::optional<Problem> add(const std::vector<PathLeg>& legs) {
        double angle = c_.number("angle"), z = c_.number("at_z");
        if (auto wrong = pin(angle, z)) return wrong;
        for (const PathLeg& leg : legs) {
            if (leg.turn_deg != 0 && leg.slide_mm != 0)
                return Problem{ProblemCode::Wording,
                               "A leg of a groove turns or slides, not both.",
                               "Write them one after the other.",
                               {},
                               {}};
            auto wrong = leg.slide_mm != 0 ? slide(angle, z, z + leg.slide_mm) : turn(angle, z, leg.turn_deg);
            angle += leg.turn_deg;
            z += leg.slide_mm;
            if (!wrong) wrong = pin(angle, z);
            if (wrong) return wrong;
        }
        return std::nullopt;
    }
    const std::vector<Body>& pieces() const { return pieces_; }

  private:
    Transform radial(double angle, double z) const { // local z outward, x round, y up
        Transform at = Transform::Identity();
        at.rotate(Eigen::AngleAxisd(radians(angle), Vec3::UnitZ()));
        at.translate(Vec3(0, 0, z));
        Eigen::Matrix3d turn;
        turn.col(0) = Vec3::UnitY();
        turn.col(1) = Vec3::UnitZ();
        turn.col(2) = Vec3::UnitX();
        at.linear() = at.linear() * turn;
        return at;
    }
    std::optional<Problem> take(Expected<Body> body) {
        if (!body) return body.error();
        pieces_.push_back(*body);
        return std::nullopt;
    }
    uint64_t salt() { return uint64_t(pieces_.size() + 1); }
    std::optional<Problem> pin(double angle, double z) {
        Transform at = radial(angle, z);
        at.translate(Vec3(0, 0, low_));
        return take(make_cylinder(half_, high_ - low_, at, joint_tags(c_, salt())));
    }
    std::optional<Problem> slide(double angle, double from, double to) {
        Transform at = radial(angle, 0);
        at.translate(Vec3(-half_, std::min(from, to), low_));
        return take(make_block({2 * half_, std::fabs(to - from), high_ - low_}, at, joint_tags(c_, salt())));
    }
    std::optional<Problem> turn(double angle, double z, double by) {
        if (std::fabs(by) >= 360)
            return Problem{
                ProblemCode::Range, "A leg of the groove turns all the way round.", "Turn less than 360°.", {}, {}};
        std::vector<SourcedCurve> rectangle;
        for (const Curve& curve :
             closed_line({{low_, z - half_}, {high_, z - half_}, {high_, z + half_}, {low_, z + half_}})) {
            SourcedCurve s;
            s.curve = curve;
            s.key = rectangle.size() + 1;
            rectangle.push_back(s);
        }
        auto arrangement = arrange(rectangle);
        if (!arrangement) return arrangement.error();
        Transform upright = Transform::Identity();
        upright.rotate(Eigen::AngleAxisd(radians(angle + std::min(0.0, by)), Vec3::UnitZ()));
        upright.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitX()));
        return take(revolved_body(arrangement->regions, {0, 0}, Vec2::UnitY(), 0, std::fabs(by), upright,
                                  joint_tags(c_, salt())));
    }

    const StepContext& c_;
    double gap_, half_, low_ = 0, high_ = 0;
    bool outward_;
    std::vector<Body> pieces_;
};

/// All pieces for every lug, where the lock stands.
Expected<std::vector<Body>> round_the_wall(const std::vector<Body>& pieces, const StepContext& context) {
    std::vector<Body> all;
    int count = int(context.number("count"));
    for (int k = 0; k < count; ++k) {
        Affine place = Affine::Identity();
        place.translate(Vec3(context.number("at_x"), context.number("at_y"), 0));
        place.rotate(Eigen::AngleAxisd(2 * std::numbers::pi * k / count, Vec3::UnitZ()));
        for (const Body& piece : pieces) {
            auto copy = mapped(piece, place);
            if (!copy) return tl::make_unexpected(copy.error());
            all.push_back(k ? renamed_copy(*copy, context.step_id, uint64_t(k)) : *copy);
        }
    }
    return all;
}

Expected<StepResult> apply(const std::vector<StepBody>& before, const StepContext& context, Operation operation,
                           const std::vector<Body>& tools) {
    auto chosen = pick_bodies(before, context.word("what"), "lock");
    if (!chosen) return tl::make_unexpected(chosen.error());
    StepResult result{before, {}, {}};
    bool changed = false;
    for (size_t i : *chosen) {
        int pieces = before[i].body.pieces();
        auto made = combine(operation, before[i].body, tools, context.task);
        if (!made) return tl::make_unexpected(made.error());
        changed = changed || std::fabs(made->body.mass().volume_mm3 - before[i].body.mass().volume_mm3) > 1e-3;
        result.bodies[i].body = made->body;
        if (!made->note.empty()) result.note = made->note;
        tell_pieces(result, i, pieces);
    }
    if (!changed) result.note = "It changes nothing: the lock does not reach the body.";
    return result;
}

} // namespace

StepKind lock_groove_kind() {
    StepKind kind;
    kind.id = "lock_groove";
    kind.title = "Lock groove";
    kind.purpose = "Cuts the groove that the lugs of a twist lock are led along, in legs round an axis.";
    kind.fields = lock_fields({{"legs",
                                FieldKind::Text,
                                "slide -8, turn 40, slide 2",
                                0,
                                0,
                                {},
                                "the way of the lugs: turn in degrees, slide in mm"},
                               {"fit", FieldKind::Fit, "loose", 0, 0, {}, "gap round the lugs"}});
    kind.sentence =
        "Cut a groove for {count} lugs {width} wide and {depth} deep {side} of radius {radius}, from {angle}, "
        "{at_z} along {legs}, fit {fit}[, in {what}][, about {at_x}, {at_y}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto gap = context.fit_gap(context.word("fit"), "");
        if (!gap) return tl::make_unexpected(gap.error());
        auto legs = legs_from_text(context.word("legs"));
        if (!legs) return tl::make_unexpected(legs.error());
        if (legs->empty())
            return problem(ProblemCode::Wording, "The groove has no legs.",
                           "Write them as: slide -8, turn 40, slide 2.");
        double room = *gap - context.growth_mm;
        if (context.number("width") / 2 + room < tolerance::smallest_mm)
            return problem(ProblemCode::Range, "The gap leaves no groove.", "Make the lugs wider.");
        Track track(context, room);
        if (auto wrong = track.add(*legs)) return tl::make_unexpected(*wrong);
        auto tools = round_the_wall(track.pieces(), context);
        if (!tools) return tl::make_unexpected(tools.error());
        return apply(before, context, Operation::Cut, *tools);
    };
    return kind;
}

StepKind lock_lugs_kind() {
    StepKind kind;
    kind.id = "lock_lugs";
    kind.title = "Lock lugs";
    kind.purpose = "Stands the lugs of a twist lock on a round wall.";
    kind.fields = lock_fields({});
    kind.sentence = "Stand {count} lugs {width} wide and {depth} high {side} on radius {radius}, from {angle} at "
                    "{at_z}[, on {what}][, about {at_x}, {at_y}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double r = context.number("radius"), depth = context.number("depth"), g = context.growth_mm;
        bool outward = context.word("side") == "outward";
        // Rooted in the wall, a little deeper than its face.
        double root = std::min(1.5, depth), low = outward ? r - root : r - depth - g,
               high = outward ? r + depth + g : r + root;
        if (low < 0.05) low = 0.05;
        Transform at = Transform::Identity();
        at.rotate(Eigen::AngleAxisd(radians(context.number("angle")), Vec3::UnitZ()));
        at.translate(Vec3(low, 0, context.number("at_z")));
        at.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitY()));
        auto lug = make_cylinder(context.number("width") / 2 + g, high - low, at, joint_tags(context, 1));
        if (!lug) return tl::make_unexpected(lug.error());
        auto tools = round_the_wall({*lug}, context);
        if (!tools) return tl::make_unexpected(tools.error());
        return apply(before, context, Operation::Join, *tools);
    };
    return kind;
}

StepKind crop_kind() {
    StepKind kind;
    kind.id = "crop";
    kind.title = "Crop";
    kind.purpose = "Keeps of every body what lies in a box: a test piece of one region.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"size_x", FieldKind::Length, "30 mm", 0.5, far, {}, "of the box"},
                   {"size_y", FieldKind::Length, "30 mm", 0.5, far, {}, "of the box"},
                   {"size_z", FieldKind::Length, "30 mm", 0.5, far, {}, "of the box"},
                   {"at_x", FieldKind::Length, "0 mm", -far, far, {}, "its middle"},
                   {"at_y", FieldKind::Length, "0 mm", -far, far, {}, "its middle"},
                   {"at_z", FieldKind::Length, "0 mm", -far, far, {}, "its middle"}};
    kind.sentence = "Keep of {what} what lies in {size_x} by {size_y} by {size_z} round {at_x}, {at_y}, {at_z}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "crop");
        if (!chosen) return tl::make_unexpected(chosen.error());
        Vec3 size(context.number("size_x"), context.number("size_y"), context.number("size_z"));
        Transform at = Transform::Identity();
        at.translate(Vec3(context.number("at_x"), context.number("at_y"), context.number("at_z")) - size / 2);
        auto box = make_block(size, at, {context.step_id, context.copy});
        if (!box) return tl::make_unexpected(box.error());
        StepResult result{{}, {}, {}};
        for (size_t i = 0; i < before.size(); ++i) {
            if (std::find(chosen->begin(), chosen->end(), i) == chosen->end()) {
                result.bodies.push_back(before[i]);
                continue;
            }
            if (!before[i].body.box().intersects(box->box())) continue;
            auto kept = combine(Operation::Common, before[i].body, {*box}, context.task);
            if (!kept) {
                if (kept.error().sentence.rfind("Nothing is left", 0) == 0) continue;
                return tl::make_unexpected(kept.error());
            }
            StepBody body = before[i];
            body.body = kept->body;
            result.bodies.push_back(std::move(body));
        }
        if (result.bodies.empty())
            return problem(ProblemCode::Geometry, "The box holds nothing of these bodies.",
                           "Move it, or make it larger.");
        return result;
    };
    return kind;
}

} // namespace lp
