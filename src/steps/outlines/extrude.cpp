// Extrude: regions of an outline drawn out straight into solids.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/occt_convert.h"
#include "steps/outlines/growing.h"
#include "steps/outlines/sink.h"
#include "steps/solids/profile_shape.h"
#include <BRepBndLib.hxx>
#include <Bnd_Box.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

namespace lp {
namespace {

struct Span {
    double low = 0, high = 0;
};

/// How far the bodies reach along the plane's normal.
std::optional<Span> reach_of(const std::vector<StepBody>& before, const Transform& plane) {
    Span span{1e300, -1e300};
    Transform back = plane.inverse();
    for (const StepBody& b : before)
        for (int corner = 0; corner < 8; ++corner) {
            double z = (back * b.body.box().corner(Box3::CornerType(corner))).z();
            span.low = std::min(span.low, z);
            span.high = std::max(span.high, z);
        }
    if (span.low > span.high) return std::nullopt;
    return span;
}

/// The solids of a body that begin at this height above the plane.
Expected<Body> pieces_from(const Body& body, const Transform& plane, double level, bool upward) {
    std::vector<ExactShape> kept;
    for (TopExp_Explorer it(body.exact()->shape, TopAbs_SOLID); it.More(); it.Next()) {
        ExactShape one;
        one.shape = it.Current();
        one.births = body.exact()->births;
        TopTools_IndexedMapOfShape faces;
        TopExp::MapShapes(one.shape, TopAbs_FACE, faces);
        for (int i = 1; i <= faces.Extent(); ++i)
            if (const TagSet* tags = body.exact()->tags.Seek(faces(i))) one.tags.Bind(faces(i), *tags);
        auto flat = located(one, plane.inverse());
        Bnd_Box box;
        BRepBndLib::AddOptimal(flat->shape, box, false, false);
        double x0, y0, z0, x1, y1, z1;
        box.SetGap(0);
        box.Get(x0, y0, z0, x1, y1, z1);
        if (std::fabs((upward ? z0 : z1) - level) < 1e-3) kept.push_back(one);
    }
    if (kept.empty())
        return problem(ProblemCode::Geometry, "Nothing lies in its way there.", "Give a height, or choose a face.");
    return Body::from_exact(gather(kept));
}

class Extruder {
  public:
    Extruder(const std::vector<StepBody>& before, const StepContext& context, const GrownFrom& from)
        : before_(before), c_(context), outline_(*from.outline), drawn_(from.regions) {}

    Expected<StepResult> run() {
        auto regions = grown_regions(drawn_, c_.growth_mm);
        if (!regions) return pass_on(regions);
        regions_ = std::move(*regions);
        if (auto straight = straight_on_a_face()) {
            straight->handles = handles();
            return *straight;
        }
        auto made = body();
        if (!made) return pass_on(made);
        auto result = apply_solid(before_, *made, c_);
        if (!result) return result;
        result->place = StepPlace{outline_.plane, {}, std::pair(span_.low, span_.high)};
        result->handles = handles();
        return result;
    }

  private:
    std::vector<SizeHandle> handles() const {
        if (c_.word("to") != "height" || drawn_.empty()) return {};
        const bool in = c_.word("side") == "in";
        const Vec2 inside = drawn_.front().inside;
        const Vec3 foot(inside.x(), inside.y(), in ? -c_.number("from") : c_.number("from"));
        return {{"height", SizeHandle::Shape::Arrow, outline_.plane * foot,
                 outline_.plane.linear().col(2) * (in ? -1 : 1), c_.word("side") == "middle" ? 2.0 : 1.0}};
    }

    /// The quick way: pockets or pads within one flat face of the first body, to a height.
    std::optional<StepResult> straight_on_a_face() {
        const std::string &does = c_.word("does"), &side = c_.word("side");
        bool cut = does == "cut" && side == "in", pad = does == "join" && side == "out";
        if (before_.empty() || c_.growth_mm != 0 || c_.word("to") != "height" || !(cut || pad)) return std::nullopt;
        if (c_.number("from") != 0 || c_.number("other_way") != 0 || c_.number("draft") != 0) return std::nullopt;
        double height = c_.number("height");
        span_ = cut ? Span{-height, 0} : Span{0, height};
        auto made =
            sink_directly(before_.front().body, regions_, outline_.plane, span_.low, span_.high, cut, c_.source());
        if (!made) return std::nullopt;
        StepResult result{before_, {}, {}};
        result.bodies.front().body = *made;
        result.place = StepPlace{outline_.plane, {}, std::pair(span_.low, span_.high)};
        TagSource source = c_.source();
        result.tools = {{cut ? Operation::Cut : Operation::Join,
                         [regions = regions_, span = span_, plane = outline_.plane, source] {
                             return raised_body(regions, span.low, span.high, 0, plane, source);
                         }}};
        return result;
    }

    Expected<Body> raise(double low, double high) {
        double g = c_.growth_mm, draft = c_.number("draft");
        // A leaning wall moves out by g along its own normal: at the drawing plane by g / cos(draft).
        return raised_body(regions_, low - g, high + g, draft, outline_.plane, c_.source());
    }

    Expected<Body> body() {
        const std::string &to = c_.word("to"), &side = c_.word("side");
        double from = c_.number("from"), height = c_.number("height"), other = c_.number("other_way");
        if (c_.nominal && c_.nominal->span_mm) {
            auto [low, high] = *c_.nominal->span_mm;
            if (low < high) return raise(low, high);
            return problem(ProblemCode::Geometry, "What is raised up to a slanted or curved face cannot carry a gap.",
                           "Extrude it by a height to use it as a tool.");
        }
        if (to == "through") {
            auto reach = reach_of(before_, outline_.plane);
            if (!reach) return problem(ProblemCode::Missing, "There is no body yet to go through.", "Give a height.");
            span_ = {side == "out" ? from : reach->low - 1, side == "in" ? -from : reach->high + 1};
            if (!(span_.high > span_.low))
                return problem(ProblemCode::Geometry, "Nothing lies on that side of the outline.",
                               "Turn the side it is raised to, or give a height.");
            return raise(span_.low, span_.high);
        }
        if (to == "face") return to_face(from, side == "in");
        if (to == "next") return to_next(from, side == "in");
        if (side == "middle")
            span_ = {from - height / 2, from + height / 2};
        else if (side == "out")
            span_ = {from - other, from + height};
        else
            span_ = {-from - height, -from + other};
        return raise(span_.low, span_.high);
    }

    Expected<Body> to_face(double from, bool in) {
        const FieldValue& value = c_.value("face");
        if (value.empty())
            return problem(ProblemCode::Missing, "It is not said up to which face.",
                           "Click the face in the sentence and pick one.");
        auto found = find_face(before_, c_, value, true);
        if (!found) return pass_on(found);
        const Body& body = before_[found->body].body;
        auto frame = face_frame(body, found->face, found->primary);
        Vec3 normal = outline_.plane.linear().col(2);
        if (frame && std::fabs(frame->linear().col(2).dot(normal)) > 1 - 1e-9) {
            double reach = (outline_.plane.inverse() * frame->translation()).z();
            span_ = {std::min(from, reach), std::max(from, reach)};
            if (span_.high - span_.low < tolerance::smallest_mm)
                return problem(ProblemCode::Geometry, "The outline lies in that face already.",
                               "Choose another face, or give a height.");
            return raise(span_.low, span_.high);
        }
        if (!frame) return to_next(from, in); // a curved face: up to the body there
        // A slanted face: raised far, and cut off along it.
        auto reach = reach_of(before_, outline_.plane);
        double far = reach ? std::max(std::fabs(reach->low), std::fabs(reach->high)) + 1 : 1000;
        Vec3 facing = frame->linear().col(2);
        double lean = std::fabs(facing.dot(normal));
        if (lean < 1e-3)
            return problem(ProblemCode::Geometry, "That face stands along the way it is raised.",
                           "Choose a face it meets.");
        double wide = 1;
        for (const FlatRegion& r : regions_)
            for (const BoundaryCurve& c : r.outer)
                wide = std::max(
                    {wide, c.curve.box().min().cwiseAbs().maxCoeff(), c.curve.box().max().cwiseAbs().maxCoeff()});
        far += 4 * wide / lean;
        auto prism = in ? raise(-far, -from) : raise(from, far);
        if (!prism) return prism;
        // Everything beyond the face goes: a block on the far side.
        Vec3 away = facing.dot(normal) * (in ? -1 : 1) > 0 ? facing : Vec3(-facing);
        Transform at = Transform::Identity();
        Vec3 x = away.unitOrthogonal();
        at.linear() << x, away.cross(x), away;
        at.translation() = frame->translation();
        double size = 6 * far + 100;
        at.translate(Vec3(-size / 2, -size / 2, 0));
        auto block = make_block({size, size, size}, at, {c_.step_id, c_.copy ^ 1});
        if (!block) return block;
        auto cut = combine(Operation::Cut, *prism, {*block}, c_.task);
        if (!cut) return pass_on(cut);
        return cut->body;
    }

    Expected<Body> to_next(double from, bool in) {
        if (before_.empty() || !before_.front().body.is_exact())
            return problem(ProblemCode::Missing, "There is no exact body to reach.", "Give a height.");
        if (c_.word("does") == "cut")
            return problem(ProblemCode::Geometry, "A cut up to the next face would cut nothing.",
                           "Cut through, to a height, or to a chosen face.");
        auto reach = reach_of(before_, outline_.plane);
        double end = in ? reach->low - 1 : reach->high + 1;
        if (in ? end > -from : end < from)
            return problem(ProblemCode::Geometry, "Nothing lies on that side of the outline.",
                           "Turn the side it is raised to.");
        auto prism = in ? raise(end, -from) : raise(from, end);
        if (!prism) return prism;
        auto cut = combine(Operation::Cut, *prism, {before_.front().body}, c_.task);
        if (!cut) return pass_on(cut);
        auto piece = pieces_from(cut->body, outline_.plane, in ? -from : from, !in);
        if (!piece) return piece;
        // A piece that runs on to the end met nothing.
        double volume = piece->mass().volume_mm3, whole = prism->mass().volume_mm3;
        if (volume > whole * (1 - 1e-9))
            return problem(ProblemCode::Geometry, "Nothing lies in its way there.", "Give a height, or choose a face.");
        return piece;
    }

    const std::vector<StepBody>& before_;
    const StepContext& c_;
    const PlacedOutline& outline_;
    const std::vector<FlatRegion>& drawn_;
    std::vector<FlatRegion> regions_;
    Span span_;
};

} // namespace

StepKind extrude_kind() {
    StepKind kind;
    kind.id = "extrude";
    kind.title = "Extrude";
    kind.purpose = "Draws regions of an outline out straight, to add, cut or keep.";
    const double far = tolerance::largest_mm;
    kind.fields = growing_fields(
        {{"to",
          FieldKind::Choice,
          "height",
          0,
          0,
          {"height", "through", "face", "next"},
          "how far: a height, through everything, to a face, to the next face"},
         {"height", FieldKind::Length, "10 mm", tolerance::smallest_mm, far, {}, "how far"},
         {"side",
          FieldKind::Choice,
          "out",
          0,
          0,
          {"out", "in", "middle"},
          "out of the drawing, into what lies behind it, or half each"},
         {"other_way", FieldKind::Length, "0 mm", 0, far, {}, "so far to the other side as well"},
         {"from", FieldKind::Length, "0 mm", -far, far, {}, "begins this far from the drawing"},
         {"draft", FieldKind::Angle, "0 deg", -60, 60, {}, "walls lean in by this angle from the drawing plane"},
         StepField{"face", FieldKind::Face, "", 0, 0, {}, "the face it goes up to"}
             .optional("choose …")
             .filled_by(Filler::NextFace)});
    kind.sentence = "Extrude {regions} of {outline} to {to} {height} {side}[, {other_way} the other way][, from {from}]"
                    "[, leaning in {draft}][, up to {face}], {does}";
    kind.group = StepGroup::Outlines;
    kind.synonyms = {"raise", "boss", "pocket", "pad"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Region, .place = 10, .hint = "into a solid, out of the drawing"},
                   {.when = Chosen::Region,
                    .place = 20,
                    .words = "Cut in",
                    .hint = "out of the part, into what lies behind",
                    .fields = {{"does", "cut"}, {"side", "in"}},
                    .drawing = "cut_in"}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto from = find_regions_to_grow(context);
        if (!from) return pass_on(from);
        return Extruder(before, context, *from).run();
    };
    return kind;
}

} // namespace lp
