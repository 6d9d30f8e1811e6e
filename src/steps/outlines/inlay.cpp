// Letters or an emblem let into the part, with the plugs that fill them: in another colour, printed for themselves.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/outlines/growing.h"
#include "steps/outlines/sink.h"
#include "steps/solids/profile_shape.h"
#include "steps/step_bodies.h"
#include <algorithm>

namespace lp {
namespace {

class Inlayer {
  public:
    Inlayer(const std::vector<StepBody>& before, const StepContext& context, const GrownFrom& from)
        : before_(before), c_(context), plane_(from.outline->plane), regions_(from.regions),
          depth_(context.number("depth")), gap_(context.number("gap")), proud_(context.number("proud")),
          plate_(context.number("plate")) {}

    Expected<StepResult> run() {
        if (before_.empty())
            return problem(ProblemCode::Missing, "There is no body yet to let it into.",
                           "Put a solid before this step.");
        auto plug = make_plug();
        if (!plug) return pass_on(plug);
        StepResult result{before_, std::move(note_), {}};
        if (auto wrong = cut_room(result)) return pass_on(*wrong);
        if (auto wrong = check_plate(result.bodies.front().body)) return pass_on(*wrong);
        StepBody own{c_.step_id, c_.name.empty() ? "plug" : c_.name, *plug, {}};
        result.bodies.push_back(own);
        result.place = StepPlace{plane_, {}, {}};
        const Vec2 inside = regions_.front().inside;
        result.handles = {{"depth", SizeHandle::Shape::Arrow, plane_ * Vec3(inside.x(), inside.y(), 0),
                           -plane_.linear().col(2), 1.0}};
        return result;
    }

  private:
    Expected<std::vector<FlatRegion>> grown(double by) const {
        return by == 0 ? Expected<std::vector<FlatRegion>>(regions_) : grown_regions(regions_, by);
    }

    /// Smaller all round than its room by the gap; where it stands on a plate, as low as the part is thick.
    Expected<Body> make_plug() {
        const double high = proud_ + c_.growth_mm, low = plate_ > 0 ? -depth_ : -depth_ + gap_;
        if (high - low < tolerance::smallest_mm)
            return problem(ProblemCode::Range, "Nothing is left of a plug that is so low.",
                           "Sink it deeper, or let it stand out further.");
        std::vector<FlatRegion> regions;
        size_t without = 0;
        for (const FlatRegion& region : regions_) {
            const double by = c_.growth_mm - gap_;
            auto grown = by == 0 ? Expected<std::vector<FlatRegion>>({region}) : grown_regions({region}, by);
            if (!grown || grown->empty())
                ++without;
            else
                regions.insert(regions.end(), grown->begin(), grown->end());
        }
        if (regions.empty())
            return problem(ProblemCode::Geometry,
                           "Every stroke is finer than twice the gap of " +
                               format_quantity(gap_, QuantityKind::Length) + ": no plug is left.",
                           "Write larger, thicken the strokes, or make the gap smaller.");
        if (without > 0)
            note_ = "Of " + std::to_string(regions_.size()) + " shapes " + std::to_string(regions_.size() - without) +
                    " get a plug: the others are finer than twice the gap.";
        auto plug = raised_body(regions, low, high, 0, plane_, c_.source());
        if (!plug || !(plate_ > 0)) return plug;
        auto plate = make_plate();
        if (!plate) return plate;
        auto joined = combine(Operation::Join, *plug, {*plate}, c_.task);
        if (!joined) return pass_on(joined);
        return joined->body;
    }

    /// Behind the part, a margin wider than all shapes together.
    Expected<Body> make_plate() const {
        constexpr double margin_mm = 2;
        Box2 box;
        for (const FlatRegion& r : regions_)
            for (const BoundaryCurve& c : r.outer) box.extend(c.curve.tight_box());
        const double margin = margin_mm + c_.growth_mm;
        Transform at = plane_;
        at.translate(Vec3(box.min().x() - margin, box.min().y() - margin, -depth_ - plate_ - c_.growth_mm));
        return make_block({box.sizes().x() + 2 * margin, box.sizes().y() + 2 * margin, plate_ + c_.growth_mm}, at,
                          {c_.step_id, c_.copy ^ 1});
    }

    std::optional<Problem> cut_room(StepResult& result) const {
        constexpr double beyond_mm = 0.5; // a cut that goes through ends in the open
        Body& body = result.bodies.front().body;
        auto regions = grown(-c_.growth_mm);
        if (!regions) return regions.error();
        const double low = -depth_ - (plate_ > 0 ? beyond_mm : 0);
        const double before_mm3 = body.mass().volume_mm3;
        std::optional<Body> sunk;
        if (plate_ <= 0 && c_.growth_mm == 0) sunk = sink_directly(body, *regions, plane_, low, 0, true, c_.source());
        if (sunk) {
            body = *sunk;
        } else {
            // A little above the face too, so that nothing thin is left standing there.
            auto tool = raised_body(*regions, low, plate_ > 0 ? beyond_mm : 0, 0, plane_, c_.source());
            if (!tool) return tool.error();
            auto cut = combine(Operation::Cut, body, {*tool}, c_.task);
            if (!cut) return cut.error();
            if (result.note.empty()) result.note = cut->note;
            body = cut->body;
        }
        if (before_mm3 - body.mass().volume_mm3 < tolerance::overlap_mm3)
            return Problem{ProblemCode::Geometry, "The outline does not lie on the part: nothing is let in.",
                           "Draw it on a face of the part."};
        tell_pieces(result, 0, before_.front().body.pieces());
        return std::nullopt;
    }

    /// The plate lies behind the part, not in it.
    std::optional<Problem> check_plate(const Body& part) const {
        if (!(plate_ > 0)) return std::nullopt;
        auto plate = make_plate();
        if (!plate) return plate.error();
        auto shared = combine(Operation::Common, *plate, {part}, c_.task);
        if (c_.cancelled() || !shared || shared->body.mass().volume_mm3 < tolerance::overlap_mm3) return std::nullopt;
        return Problem{ProblemCode::Geometry,
                       "The part is thicker than " + format_quantity(depth_, QuantityKind::Length) +
                           " there: the plate would lie in it.",
                       "Give the part's thickness as the depth, or leave the plate away."};
    }

    const std::vector<StepBody>& before_;
    const StepContext& c_;
    const Transform& plane_;
    const std::vector<FlatRegion>& regions_;
    double depth_, gap_, proud_, plate_;
    std::string note_;
};

} // namespace

StepKind inlay_kind() {
    StepKind kind;
    kind.id = "inlay";
    kind.title = "Inlay";
    kind.purpose = "Lets letters or an emblem into the part, and makes the plugs that fill them.";
    const double far = tolerance::largest_mm;
    kind.fields = growing_fields(
        {{"depth", FieldKind::Length, "1.2 mm", tolerance::smallest_mm, far, {}, "how deep; with a plate: through"},
         {"gap", FieldKind::Length, "0.1 mm", 0, 5, {}, "between plug and part, all round and below"},
         {"proud", FieldKind::Length, "0 mm", -far, far, {}, "the plug stands out by this; 0: flush"},
         {"plate", FieldKind::Length, "0 mm", 0, far, {}, "behind the part, holds the plugs together; 0: none"}});
    std::erase_if(kind.fields, [](const StepField& f) { return f.name == "does"; });
    kind.sentence =
        "Let {regions} of {outline} in {depth} deep, gap {gap}[, {proud} proud][, on a plate {plate} thick]";
    kind.group = StepGroup::Outlines;
    kind.synonyms = {"plug", "two colours", "multicolour", "emblem", "logo", "fill"};
    kind.offers = {
        {.when = Chosen::Region, .place = 25, .hint = "let into the part, with plugs of another colour that fill it"}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto from = find_regions_to_grow(context);
        if (!from) return pass_on(from);
        return Inlayer(before, context, *from).run();
    };
    return kind;
}

} // namespace lp
