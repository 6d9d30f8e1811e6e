// A body in two halves that are glued: loose pins in holes of both, so that the faces lie flat on the bed and on each
// other; pins of two sizes, so that the halves go together one way only.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/find_plane.h"
#include "steps/solids/profile_shape.h"
#include "steps/splitting/parting.h"
#include "steps/splitting/stepped_parting.h"

namespace lp {
namespace {

constexpr double end_room_mm = 0.3;    ///< at either end of a pin, for glue and what the hole's floor stands up
constexpr double smaller_share = 0.75; ///< of the pin that tells the way round

struct Pin {
    Body body, room; ///< room: what is cut from both halves
};

class PinnedSplit {
  public:
    PinnedSplit(const std::vector<StepBody>& before, const StepContext& context)
        : before_(before), c_(context), across_(context.number("across")), deep_(context.number("deep")),
          round_(context.word("pin") == "round") {}

    Expected<StepResult> run() {
        if (auto wrong = find_parting()) return pass_on(*wrong);
        if (across_ < 3 * c_.line_mm)
            return problem(ProblemCode::Range, "A pin of " + mm(across_) + " is less than three lines wide.",
                           "Make it " + mm(3 * c_.line_mm) + " or more, or use a finer nozzle.");
        auto result = part_in_halves(before_, c_, plane_,
                                     [&](const Body& body, const std::string& called) { return part(body, called); });
        if (result) result->note = told_;
        return result;
    }

  private:
    /// The plane, or the drawn line.
    std::optional<Problem> find_parting() {
        auto parting = fitted_parting(before_, c_);
        if (!parting) return parting.error();
        plane_ = parting->plane;
        gap_ = parting->gap_mm;
        planes_ = {{plane_}};
        const std::string& name = c_.word("outline");
        if (name.empty()) return std::nullopt;
        auto outline = find_outline(c_, name);
        if (!outline) return outline.error();
        auto stepped = stepped_parting(**outline, reach_beyond(before_), gap_, c_.source(), c_.task);
        if (!stepped) return stepped.error();
        plane_ = stepped->plane;
        planes_ = std::move(stepped->stretches);
        spaces_ = Spaces{std::move(stepped->above), std::move(stepped->upper)};
        return std::nullopt;
    }
    /// What the lower half is without, and what the upper one lies in.
    struct Spaces {
        Body above, upper;
    };
    Expected<Spaces> spaces(const Body& body) const {
        if (spaces_) return *spaces_;
        auto above = space_above(plane_, body.box(), c_.source());
        if (!above) return pass_on(above);
        return Spaces{*above, *above};
    }

    static std::string mm(double value) { return format_quantity(value, QuantityKind::Length, 2); }

    /// A body in its halves, with the holes for its pins.
    Expected<std::optional<Halves>> part(const Body& body, const std::string& called) {
        auto space = spaces(body);
        if (!space) return pass_on(space);
        auto lower = combine(Operation::Cut, body, {space->above}, c_.task),
             upper = combine(Operation::Common, body, {space->upper}, c_.task);
        for (const auto* half : {&lower, &upper})
            if (!*half) {
                if (half->error().code == ProblemCode::NothingLeft) return std::optional<Halves>();
                return pass_on(*half);
            }
        auto pins = pins_of(body);
        if (!pins) return pass_on(pins);
        std::vector<Body> rooms;
        for (const Pin& pin : *pins) rooms.push_back(pin.room);
        for (auto* half : {&lower, &upper}) {
            if (rooms.empty()) continue;
            *half = combine(Operation::Cut, (*half)->body, rooms, c_.task);
            if (!*half) return pass_on(*half);
        }
        Halves halves{lower->body, upper->body};
        for (size_t k = 0; k < pins->size(); ++k) {
            StepBody pin{c_.step_id, called + "pin " + std::to_string(k + 1), (*pins)[k].body};
            pin.halos.push_back({c_.step_id, c_.word("fit"), gap_, (*pins)[k].room});
            halves.more.push_back(std::move(pin));
        }
        return std::optional(std::move(halves));
    }

    Expected<std::vector<Pin>> pins_of(const Body& body) {
        const auto count = size_t(c_.number("pins"));
        std::vector<Pin> pins;
        if (count == 0) return pins;
        const double half_across = round_ ? across_ / 2 : across_ / std::sqrt(2.0), wall = 2 * c_.line_mm;
        double widest = 0;
        const auto places =
            pin_frames(body.mesh(), planes_, {half_across + gap_ + wall, deep_ + end_room_mm}, count, &widest);
        if (places.empty())
            return problem(ProblemCode::Geometry,
                           "There is no room for pins of " + mm(across_) + " there: with walls round them and " +
                               mm(deep_) + " deep the widest place would take " +
                               mm(std::max(0.0, 2 * (widest - gap_ - wall) * (round_ ? 1 : 1 / std::sqrt(2.0)))) + ".",
                           "Use thinner or shorter pins, or part it elsewhere.");
        const bool keyed = c_.word("goes") == "one way" && places.size() > 1;
        for (size_t k = 0; k < places.size(); ++k) {
            const bool smaller = keyed && k + 1 == places.size();
            auto made = pin(places[k], smaller ? std::max(smaller_share * across_, 2 * c_.line_mm) : across_,
                            uint64_t(10 * (k + 1)));
            if (!made) return pass_on(made);
            pins.push_back(*made);
        }
        told_ = std::to_string(places.size()) + (places.size() == 1 ? " pin" : " pins") +
                (keyed ? ", the last one thinner: it goes together one way only" : "") +
                (places.size() < count ? "; there is no room for more" : "") + ". Print the pins lying.";
        if (c_.word("goes") == "one way" && !keyed) told_ += " One pin alone does not tell the way round.";
        return pins;
    }

    /// `at`: its middle, z along it.
    Expected<Pin> pin(const Transform& at, double across, uint64_t salt) const {
        const double r = across / 2, rim = std::min(0.6, r / 3), room = deep_ + end_room_mm;
        auto tags = [&](uint64_t more) { return TagSource{c_.step_id, c_.copy ^ ((salt + more) << 40)}; };
        auto turned = [&](const std::vector<Vec2>& corners, uint64_t more) {
            std::vector<Curve> curves;
            for (size_t i = 0; i < corners.size(); ++i)
                curves.push_back(Curve::line(corners[i], corners[(i + 1) % corners.size()]));
            return turned_profile(curves, 0, at, tags(more));
        };
        auto square = [&](double half, double low, double high, uint64_t more) {
            Transform corner = at;
            corner.translate(Vec3(-half, -half, low));
            return make_block({2 * half, 2 * half, high - low}, corner, tags(more));
        };
        const double wide = r + gap_;
        auto body = round_ ? turned({{0, -deep_},
                                     {r - rim, -deep_},
                                     {r, rim - deep_},
                                     {r, deep_ - rim},
                                     {r - rim, deep_},
                                     {0, deep_}},
                                    1)
                           : square(r, -deep_, deep_, 1);
        auto cut =
            round_ ? turned({{0, -room}, {wide, -room}, {wide, room}, {0, room}}, 2) : square(wide, -room, room, 2);
        if (!body || !cut) return pass_on(!body ? body.error() : cut.error());
        return Pin{*body, *cut};
    }

    const std::vector<StepBody>& before_;
    const StepContext& c_;
    double across_, deep_, gap_ = 0;
    bool round_;
    Transform plane_ = Transform::Identity();
    std::vector<PinPlane> planes_; ///< where pins may stand
    std::optional<Spaces> spaces_; ///< of a drawn line
    std::string told_;
};

} // namespace

StepKind pinned_split_kind() {
    StepKind kind;
    kind.id = "pinned_split";
    kind.title = "Split with pins";
    kind.purpose = "Parts a body in two halves to be glued, by a plane or a drawn line with steps, with loose pins in "
                   "holes of both that line them up.";
    kind.fields =
        parting_fields({StepField{"outline",
                                  FieldKind::Outline,
                                  "",
                                  0,
                                  0,
                                  {},
                                  "a drawn line that parts it instead of the plane: pins stand square to its longest "
                                  "straight stretch and to those along it"}
                            .optional("none"),
                        {"pins", FieldKind::Count, "2", 0, 20, {}, "as far apart as the cut has room"},
                        {"pin", FieldKind::Choice, "round", 0, 0, {"round", "square"}, "their shape"},
                        {"across", FieldKind::Length, "6 mm", 0.5, 200, {}, "of a pin"},
                        {"deep", FieldKind::Length, "8 mm", 0.5, 500, {}, "in either half"},
                        {"fit", FieldKind::Fit, "press", 0, 0, {}, "of the pins: a named fit, or a gap a face in mm"},
                        {"goes",
                         FieldKind::Choice,
                         "one way",
                         0,
                         0,
                         {"one way", "either way"},
                         "one way: the last pin is thinner, so that the halves cannot be turned round"}});
    kind.sentence = "Split {what} by {by}[ at {distance}][, along {outline}] in halves with {pins} {pin} pins {across} "
                    "across and {deep} "
                    "deep, fit {fit}, going together {goes}";
    kind.group = StepGroup::Splitting;
    kind.for_printer = true;
    kind.reports = true;
    kind.synonyms = {"divide", "halves", "dowel", "peg", "glue", "join", "too big", "key"};
    kind.offers = {{.when = Chosen::Nothing, .place = 240}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        return PinnedSplit(before, context).run();
    };
    return kind;
}

} // namespace lp
