// The groove of a twist lock, laid on a cylinder: the lugs are led along it.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/curve.h"
#include "shape/exact_solids.h"
#include "steps/fits/joint_parts.h"
#include "steps/fits/legs.h"
#include "steps/fits/lock_parts.h"
#include "steps/solids/profile_shape.h"

namespace lp {
namespace {

/// The lug's space swept along the legs, all pieces for one lug; `gap` larger all round.
class Track {
  public:
    Track(const StepContext& context, double gap)
        : c_(context), gap_(gap), half_(context.number("width") / 2 + gap),
          outward_(context.word("side") == "outward") {
        double r = context.number("radius"), depth = context.number("depth") + gap;
        // As deep as it goes on the lug's side; through the wall's face on the other.
        const double wall = r - gap, inner = std::sqrt(std::max(0.0, wall * wall - half_ * half_)); // at a lug's sides
        low_ = std::max(0.05, outward_ ? inner - 0.5 : r - depth);
        high_ = outward_ ? r + depth : r + gap + 0.5;
    }

    std::optional<Problem> add(const std::vector<PathLeg>& legs) {
        double angle = c_.number("angle"), z = c_.number("at_z");
        if (auto wrong = pin(angle, z)) return wrong;
        for (const PathLeg& leg : legs) {
            if (leg.turn_deg != 0 && leg.slide_mm != 0)
                return Problem{ProblemCode::Wording, "A leg of a groove turns or slides, not both.",
                               "Write them one after the other."};
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
            return Problem{ProblemCode::Range, "A leg of the groove turns all the way round.", "Turn less than 360°."};
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

/// The lugs' own way: they stand at one of the ends or bends of the groove, and are led to its end, or back out to
/// where it begins.
Expected<LedWay> way_of_lugs(const StepContext& groove, const StepContext& lugs, const Transform& stands) {
    auto legs = legs_from_text(groove.word("legs"));
    if (!legs) return pass_on(legs);
    const Vec3 axis(groove.number("at_x"), groove.number("at_y"), 0);
    const double turned = radians(lugs.number("angle")), r = lugs.number("radius");
    const Vec3 foot(lugs.number("at_x"), lugs.number("at_y"), lugs.number("at_z"));
    const Vec3 lug = stands * (foot + r * Vec3(std::cos(turned), std::sin(turned), 0)), centre = stands * foot;
    const double across = (centre - axis).head<2>().norm();
    if (across > 0.5 || std::fabs((stands.linear() * Vec3::UnitZ()).z()) < 0.999)
        return problem(ProblemCode::Geometry, "The lugs do not stand about the groove's axis.",
                       "Put both parts on the same axis.");
    const double angle = degrees(std::atan2(lug.y() - axis.y(), lug.x() - axis.x()));
    const double share = 360 / groove.number("count"); // any lug may stand in any groove
    double a = groove.number("angle"), z = groove.number("at_z"), nearest = 1e300;
    size_t node = 0;
    for (size_t k = 0;; ++k) {
        const double off = std::remainder(angle - a, share);
        const double away = std::hypot(radians(off) * r, lug.z() - z);
        if (away < nearest) nearest = away, node = k;
        if (k == legs->size()) break;
        a += (*legs)[k].turn_deg;
        z += (*legs)[k].slide_mm;
    }
    if (nearest > groove.number("width") / 2)
        return problem(ProblemCode::Geometry,
                       "The lugs stand " + format_fixed(nearest, 2) + " mm beside the groove's nearest end or bend.",
                       "Put them where the groove begins, or where it ends.");
    LedWay way{axis, Vec3::UnitZ(), {}};
    if (node == 0)
        way.legs = *legs;
    else
        for (size_t k = node; k-- > 0;) way.legs.push_back({-(*legs)[k].turn_deg, -(*legs)[k].slide_mm});
    return way;
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
        "Cut a groove for {count} lug|lugs {width} wide and {depth} deep {side} of radius {radius}, from {angle}, "
        "{at_z} along {legs}, fit {fit}[, in {what}][, about {at_x}, {at_y}]";
    kind.group = StepGroup::Fits;
    kind.synonyms = {"bayonet"};
    kind.partner = "lock_lugs";
    kind.way = way_of_lugs;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto gap = context.fit_gap(context.word("fit"), "");
        if (!gap) return pass_on(gap);
        auto legs = legs_from_text(context.word("legs"));
        if (!legs) return pass_on(legs);
        if (legs->empty())
            return problem(ProblemCode::Wording, "The groove has no legs.",
                           "Write them as: slide -8, turn 40, slide 2.");
        double room = *gap - context.growth_mm;
        if (context.number("width") / 2 + room < tolerance::smallest_mm)
            return problem(ProblemCode::Range, "The gap leaves no groove.", "Make the lugs wider.");
        Track track(context, room);
        if (auto wrong = track.add(*legs)) return pass_on(*wrong);
        auto tools = round_the_wall(track.pieces(), context);
        if (!tools) return pass_on(tools);
        return apply_lock(before, context, Operation::Cut, *tools);
    };
    return kind;
}

} // namespace lp
