// A body in two halves that are glued: loose pins in holes of both, so that the faces lie flat on the bed and on each
// other; pins of two sizes, so that the halves go together one way only.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/find_plane.h"
#include "steps/pick_bodies.h"
#include "steps/solids/profile_shape.h"
#include "steps/splitting/parting.h"
#include "steps/splitting/pin_places.h"

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
        if (c_.growth_mm != 0)
            return problem(ProblemCode::Geometry, "Pinned halves cannot be remade larger by their numbers.", "");
        auto chosen = pick_bodies(before_, c_.word("what"), "split");
        if (!chosen) return pass_on(chosen);
        auto plane = find_plane(before_, c_, c_.value("by"));
        if (!plane) return pass_on(plane);
        plane_ = *plane;
        plane_.translate(Vec3(0, 0, c_.number("distance")));
        auto gap = c_.fit_gap(c_.word("fit"), "");
        if (!gap) return pass_on(gap);
        gap_ = *gap;
        if (across_ < 3 * c_.line_mm)
            return problem(ProblemCode::Range, "A pin of " + mm(across_) + " is less than three lines wide.",
                           "Make it " + mm(3 * c_.line_mm) + " or more, or use a finer nozzle.");
        StepResult result{before_, {}, {}};
        for (size_t i : *chosen) {
            if (c_.cancelled()) return cancelled();
            auto parted = part(i, result);
            if (!parted) return pass_on(parted);
        }
        if (parted_ == 0)
            return problem(ProblemCode::Geometry, "The parting misses the body: nothing is split.",
                           "Move it, or turn the plane.");
        for (StepBody& body : more_) result.bodies.push_back(std::move(body));
        result.note = told_;
        result.place = StepPlace{plane_, {}, {}};
        return result;
    }

  private:
    static std::string mm(double value) { return format_quantity(value, QuantityKind::Length, 2); }

    /// A body in its halves, with the holes for its pins.
    Expected<int> part(size_t i, StepResult& result) {
        const Body& body = before_[i].body;
        const double reach = 4 * (body.box().diagonal().norm() + body.box().center().norm()) + 20;
        Transform at = plane_;
        at.translate(Vec3(-reach, -reach, 0));
        auto space = make_block({2 * reach, 2 * reach, 2 * reach}, at, c_.source());
        if (!space) return pass_on(space);
        auto lower = combine(Operation::Cut, body, {*space}, c_.task),
             upper = combine(Operation::Common, body, {*space}, c_.task);
        for (const auto* half : {&lower, &upper})
            if (!*half) {
                if (half->error().code == ProblemCode::NothingLeft) return 0; // all of it on one side
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
        const std::string whole = c_.name.empty() ? before_[i].name : c_.name;
        result.bodies[i].body = lower->body;
        more_.push_back({c_.step_id, (whole.empty() ? "" : whole + " ") + "above", upper->body});
        part_bends(plane_, result.bodies[i], more_.back());
        for (size_t k = 0; k < pins->size(); ++k) {
            StepBody pin{c_.step_id, (whole.empty() ? "" : whole + " ") + "pin " + std::to_string(k + 1),
                         (*pins)[k].body};
            pin.halos.push_back({c_.step_id, c_.word("fit"), gap_, (*pins)[k].room});
            more_.push_back(std::move(pin));
        }
        ++parted_;
        return int(pins->size());
    }

    Expected<std::vector<Pin>> pins_of(const Body& body) {
        const auto count = size_t(c_.number("pins"));
        std::vector<Pin> pins;
        if (count == 0) return pins;
        const double half_across = round_ ? across_ / 2 : across_ / std::sqrt(2.0), wall = 2 * c_.line_mm;
        double widest = 0;
        const auto places =
            pin_places(body.mesh(), plane_, {half_across + gap_ + wall, deep_ + end_room_mm}, count, &widest);
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

    Expected<Pin> pin(const Vec2& place, double across, uint64_t salt) const {
        Transform at = plane_;
        at.translate(Vec3(place.x(), place.y(), 0));
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
    std::vector<StepBody> more_;
    std::string told_;
    int parted_ = 0;
};

} // namespace

StepKind pinned_split_kind() {
    StepKind kind;
    kind.id = "pinned_split";
    kind.title = "Split with pins";
    kind.purpose = "Parts a body in two halves to be glued, with loose pins in holes of both that line them up.";
    kind.fields =
        parting_fields({{"pins", FieldKind::Count, "2", 0, 20, {}, "as far apart as the cut has room"},
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
    kind.sentence = "Split {what} by {by}[ at {distance}] in halves with {pins} {pin} pins {across} across and {deep} "
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
