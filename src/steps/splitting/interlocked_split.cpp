// A body in two halves that hold each other without pins: a dovetail, a tongue, or half of the section lapped.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "mesh/cross_section.h"
#include "steps/fits/joint_parts.h"
#include "steps/splitting/parting.h"

namespace lp {
namespace {

class InterlockedSplit {
  public:
    InterlockedSplit(const std::vector<StepBody>& before, const StepContext& context)
        : before_(before), c_(context), joint_(context.word("joint")), wide_(context.number("wide")),
          deep_(context.number("deep")), lean_(joint_ == "dovetail" ? std::tan(radians(context.number("lean"))) : 0) {}

    Expected<StepResult> run() {
        auto parting = fitted_parting(before_, c_);
        if (!parting) return pass_on(parting);
        plane_ = parting->plane;
        plane_.rotate(Eigen::AngleAxisd(radians(c_.number("turn")), Vec3::UnitZ()));
        gap_ = parting->gap_mm;
        auto result =
            part_in_halves(before_, c_, plane_, [&](const Body& body, const std::string&) { return part(body); });
        if (result) result->note = words();
        return result;
    }

  private:
    /// The tongue's outline across (x) and out of the plane (y), wider by a gap on every side; where it begins and ends
    /// along it.
    struct Tongue {
        std::vector<Vec2> corners;
        double from = 0, to = 0;
    };

    Expected<Tongue> tongue(const Box2& section, double gap) const {
        const double walls = 2 * c_.line_mm, half = wide_ / 2, top = half + lean_ * deep_;
        const double middle = section.center().x() + c_.number("aside");
        const double far = section.diagonal().norm() + deep_ + 10;
        Tongue t;
        t.from = section.min().y() - far;
        t.to = section.max().y() + far;
        if (joint_ == "lap") {
            t.corners = {{middle - gap, 0},
                         {section.max().x() + far, 0},
                         {section.max().x() + far, deep_ + gap},
                         {middle - gap, deep_ + gap}};
            if (middle < section.min().x() + walls || middle > section.max().x() - walls)
                return problem(ProblemCode::Range, "The lap lies past the section.", "Move it back over it.");
            return t;
        }
        if (c_.word("goes") == "one way") t.to = section.max().y() - std::max(walls, deep_ / 2) + gap;
        const double room = section.sizes().x() / 2 - std::fabs(c_.number("aside")) - gap_ - walls;
        if (top > room)
            return problem(ProblemCode::Range,
                           "There is no wall left beside a " + joint_ + " that is " + in_mm(2 * top) +
                               " wide: the section has room for " + in_mm(std::max(0.0, 2 * room)) + ".",
                           "Make it narrower, or turn it.");
        // Moved out by the gap its leaning sides stay parallel: mitred.
        const double slant = gap * std::sqrt(1 + lean_ * lean_);
        const double neck = half + slant, crest = half + lean_ * (deep_ + gap) + slant;
        t.corners = {
            {middle - neck, 0}, {middle + neck, 0}, {middle + crest, deep_ + gap}, {middle - crest, deep_ + gap}};
        return t;
    }

    Expected<Body> raised(const Tongue& tongue, uint64_t salt) const {
        // The profile's y is the plane's z; drawn out along the plane's y.
        Transform at = plane_;
        at.translate(Vec3(0, tongue.to, 0));
        at.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitX()));
        return raised_profile(tongue.corners, tongue.to - tongue.from, 0, at, c_, salt);
    }

    Expected<std::optional<Halves>> part(const Body& body) const {
        const std::optional<Halves> one_side;
        Box2 section;
        for (const auto& polygon : cross_section(body.mesh(), plane_))
            for (const Vec2& p : polygon) section.extend(p);
        if (section.isEmpty()) return one_side;
        auto space = space_above(plane_, body.box(), joint_tags(c_, 1));
        if (!space) return pass_on(space);
        auto drawn = tongue(section, 0), room = tongue(section, gap_);
        if (!drawn || !room) return pass_on(!drawn ? drawn.error() : room.error());
        auto inner = raised(*drawn, 2), outer = raised(*room, 3);
        if (!inner || !outer) return pass_on(!inner ? inner.error() : outer.error());
        // What is taken away from either half, so that each is made in one go.
        auto above = without(*space, {*inner}, c_), hollow = without(*space, {*outer}, c_);
        if (!above || !hollow) return pass_on(!above ? above.error() : hollow.error());
        auto lower = combine(Operation::Cut, body, {*above}, c_.task),
             upper = combine(Operation::Common, body, {*hollow}, c_.task);
        for (const auto* half : {&lower, &upper})
            if (!*half) {
                if (half->error().code == ProblemCode::NothingLeft) return one_side;
                return pass_on(*half);
            }
        if (lower->body.pieces() > body.pieces() || upper->body.pieces() > body.pieces())
            return problem(ProblemCode::Geometry, "One of the halves would be in pieces.",
                           "Move the parting, or make the " + joint_ + " shallower.");
        return std::optional(Halves{lower->body, upper->body});
    }

    std::string words() const {
        const std::string free = in_mm(gap_) + " free a face. ";
        if (joint_ == "lap")
            return "The halves lap by " + in_mm(deep_) + ", " + free +
                   "A screw joint through the lap, or glue, holds them.";
        const std::string slides = c_.word("goes") == "one way"
                                       ? "It slides in from one side and stops: it goes together one way only."
                                       : "It slides in from either side.";
        return (joint_ == "dovetail" ? "A dovetail, " + in_mm(wide_) + " at its neck and " +
                                           in_mm(wide_ + 2 * lean_ * deep_) + " at its top, "
                                     : "A tongue, " + in_mm(wide_) + " wide, ") +
               free +
               (joint_ == "dovetail"
                    ? slides
                    : "It goes in from above" + std::string(c_.word("goes") == "one way" ? ", one way only." : ".")) +
               " Print the half with it the other way up.";
    }

    const std::vector<StepBody>& before_;
    const StepContext& c_;
    std::string joint_;
    double wide_, deep_, lean_, gap_ = 0;
    Transform plane_ = Transform::Identity();
};

} // namespace

StepKind interlocked_split_kind() {
    StepKind kind;
    kind.id = "interlocked_split";
    kind.title = "Split, interlocked";
    kind.purpose = "Parts a body in two halves that hold each other: a dovetail, a tongue in a groove, or a lap.";
    const double far = tolerance::largest_mm;
    kind.fields = parting_fields(
        {{"joint",
          FieldKind::Choice,
          "dovetail",
          0,
          0,
          {"dovetail", "tongue", "lap"},
          "what of one half goes into the other"},
         {"wide", FieldKind::Length, "12 mm", 0.5, 1000, {}, "of a dovetail at its neck, or of a tongue"},
         {"deep", FieldKind::Length, "6 mm", 0.5, 1000, {}, "how far it reaches into the other half"},
         {"lean", FieldKind::Angle, "15 deg", 1, 60, {}, "of a dovetail's sides"},
         {"aside", FieldKind::Length, "0 mm", -far, far, {}, "from the middle of the section, to the side"},
         {"turn", FieldKind::Angle, "0 deg", -360, 360, {}, "of the joint in the parting; 0: along the plane's y"},
         {"fit", FieldKind::Fit, "slide", 0, 0, {}, "of the two in each other: a named fit, or a gap a face in mm"},
         {"goes",
          FieldKind::Choice,
          "one way",
          0,
          0,
          {"one way", "either way"},
          "one way: it ends before the far side, so that the halves cannot be turned round"}});
    kind.sentence =
        "Split {what} by {by}[ at {distance}] in halves with a {joint} {wide} wide and {deep} deep[, leaning "
        "{lean}][, {aside} aside][, turned {turn}], fit {fit}, going together {goes}";
    kind.group = StepGroup::Splitting;
    kind.for_printer = true;
    kind.reports = true;
    kind.synonyms = {"divide", "halves",  "dovetail", "tongue",  "groove", "lap",
                     "join",   "too big", "slide",    "stepped", "key"};
    kind.offers = {{.when = Chosen::Nothing, .place = 242}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        return InterlockedSplit(before, context).run();
    };
    return kind;
}

} // namespace lp
