// Fillet: edges rounded by a radius, growing along them where asked.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/find_edges.h"
#include "steps/kernel_step.h"

namespace lp {
namespace {

using Rounded = Expected<Body>;

class Filleter {
  public:
    Filleter(const Body& body, const StepContext& context, double first, double last)
        : body_(body), context_(context), first_(first), last_(last) {}

    Rounded round(const std::vector<size_t>& edges, double share = 1) const {
        KernelCall call;
        call.what = "fillet";
        call.numbers = {first_ * share, last_ * share};
        double length = 0;
        for (size_t e : edges) {
            call.picks.push_back(body_.tessellation().edges[e].number);
            length += body_.tessellation().edges[e].length_mm;
        }
        // A square corner loses (1 - pi/4) r2 a millimetre; sharper ones more, and chains run on: ten times that is
        // still no missing feature.
        double r = std::max(first_, last_) * share, change = 10 * r * r * (length + 20 * r);
        double volume = body_.mass().volume_mm3;
        auto made = run_kernel_step(body_, call, context_, "A fillet", volume - change, volume + change);
        if (made && std::fabs(made->mass().volume_mm3 - volume) < 1e-9 * volume)
            return problem(ProblemCode::Geometry, "The geometry kernel rounded nothing.", "Choose other edges.");
        return made;
    }

    /// The largest share of the wanted radius that works for these edges, to a hundredth; 0 when none does.
    double largest_share(const std::vector<size_t>& edges) const {
        double good = 0, bad = 1;
        for (int i = 0; i < 9 && !context_.cancelled(); ++i) {
            double middle = (good + bad) / 2;
            (round(edges, middle) ? good : bad) = middle;
        }
        return good;
    }

  private:
    const Body& body_;
    const StepContext& context_;
    double first_, last_;
};

std::string words_for_edge(const Body& body, size_t edge) {
    const Tessellation& t = body.tessellation();
    const EdgeInfo& e = t.edges[edge];
    auto face = [&](int f) { return f < 0 ? std::string("nothing") : tag_words(t.faces[size_t(f)].primary()); };
    const Vec3& at = e.points[e.points.size() / 2];
    return "between " + face(e.face_a) + " and " + face(e.face_b) + " near " + format_number(at.x(), 1) + ", " +
           format_number(at.y(), 1) + ", " + format_number(at.z(), 1) + " mm";
}

/// The kernel refused all edges together: the ones that can be are rounded, the others named, and the radius that would
/// do for all is offered.
Expected<StepResult> as_far_as_it_goes(const std::vector<StepBody>& before, const FoundEdges& found,
                                       const Filleter& filleter, const StepContext& context, Problem why) {
    double share = filleter.largest_share(found.edges);
    if (context.cancelled()) return cancelled();
    double radius = context.number("radius");
    // Offered a little smaller and round, so that the next small change does not fail again.
    double works = std::floor(share * radius * 100) / 100;
    std::optional<FieldCure> cure;
    std::string offer;
    if (works > 0) {
        cure = FieldCure{"radius", format_number(works) + " mm"};
        offer = "The largest radius that works for all of them is " + format_number(works) + " mm.";
    }
    const Body& body = before[found.body].body;
    std::vector<size_t> good;
    std::string bad;
    size_t bad_count = 0;
    for (size_t edge : found.edges) {
        if (context.cancelled()) return cancelled();
        std::vector<size_t> with = good;
        with.push_back(edge);
        if (found.edges.size() > 1 && filleter.round(with)) {
            good = with;
        } else if (++bad_count <= 3) {
            bad += (bad.empty() ? "" : "; ") + words_for_edge(body, edge);
        }
    }
    auto rounded = good.empty() ? Rounded(pass_on(why)) : filleter.round(good);
    if (!rounded) {
        why.sentence = "These edges cannot be rounded by " + format_number(radius) + " mm.";
        why.advice = works > 0 ? offer : "Choose other edges, or fillet before the steps that cut into them.";
        why.cure = cure;
        return pass_on(why);
    }
    StepResult result{before, {}, {}, cure};
    result.bodies[found.body].body = *rounded;
    result.note = std::to_string(bad_count) + " of " + std::to_string(found.edges.size()) +
                  " edges stay sharp: " + bad + (bad_count > 3 ? " and more" : "") + ".";
    if (!offer.empty()) result.note += " " + offer;
    result.in_part = true;
    return result;
}

} // namespace

StepKind fillet_kind() {
    StepKind kind;
    kind.id = "fillet";
    kind.title = "Fillet";
    kind.purpose = "Rounds edges, inside corners too.";
    kind.fields = {
        StepField{"edges", FieldKind::Edges, "", 0, 0, {}, "picked edges; or all, upright, of a face, made by a step"}
            .filled_by(Filler::Edges),
        StepField{"radius", FieldKind::Length, "2 mm", tolerance::smallest_mm, 1e4, {}, "of the round"}.as(
            FieldRole::Radius),
        StepField{"end_radius", FieldKind::Length, "0 mm", 0, 1e4, {}, "at the far end; 0: the same all along"}.as(
            FieldRole::Radius)};
    kind.sentence = "Fillet {edges} by {radius}[, changing to {end_radius}]";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"round", "radius"};
    kind.needs_exact = true;
    kind.offers = {{.when = Chosen::Face, .place = 50, .words = "Fillet its edges"},
                   {.when = Chosen::Faces, .place = 20, .words = "Fillet their edges"},
                   {.when = Chosen::Edges, .place = 10}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = find_edges(before, context, context.value("edges"));
        if (!found) return pass_on(found);
        const Body& body = before[found->body].body;
        double radius = context.number("radius"), end = context.number("end_radius");
        if (end == 0) end = radius;
        StepResult result{before, {}, {}};
        if (context.growth_mm != 0) { // a skin at a distance: outward rounds grow by it, inward ones shrink
            KernelCall call;
            call.what = "fillet";
            const double g = context.growth_mm, volume = body.mass().volume_mm3;
            double change = 0;
            for (size_t e : found->edges) {
                const double by = angle_at_edge(body, e) < 180 ? g : -g;
                if (std::min(radius, end) + by < tolerance::same_mm) continue; // no round is left
                call.picks.push_back(body.tessellation().edges[e].number);
                call.numbers.insert(call.numbers.end(), {radius + by, end + by});
                double r = std::max(radius, end) + by;
                change += 10 * r * r * (body.tessellation().edges[e].length_mm + 20 * r);
            }
            if (call.picks.empty()) return result;
            auto grown = run_kernel_step(body, call, context, "A fillet", volume - change, volume + change);
            if (!grown) return pass_on(grown);
            result.bodies[found->body].body = *grown;
            return result;
        }
        Filleter filleter(body, context, radius, end);
        auto rounded = filleter.round(found->edges);
        if (!rounded) {
            if (rounded.error().code == ProblemCode::Cancelled || !body.is_exact()) return pass_on(rounded);
            return as_far_as_it_goes(before, *found, filleter, context, rounded.error());
        }
        result.bodies[found->body].body = *rounded;
        // The middle of the round lies r (1 / sin(half the angle) - 1) from the edge (plane geometry).
        if (auto handle = handle_at_edge(body, found->edges.front(), "radius",
                                         [](double half) { return 1 / std::sin(half) - 1; }))
            result.handles = {*handle};
        return result;
    };
    return kind;
}

} // namespace lp
