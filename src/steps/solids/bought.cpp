// A bought piece by its name: what a stand-in is made of.
#include "hardware/piece.h"
#include "shape/exact_solids.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {
namespace {

std::vector<Curve> closed(const TurnedForm& form) {
    std::vector<Curve> curves;
    for (size_t i = 0; i < form.size(); ++i) curves.push_back(Curve::line(form[i], form[(i + 1) % form.size()]));
    return curves;
}

/// As it is; with every face moved outward by `growth_mm`.
Expected<Body> make_piece(const Piece& piece, double growth, const Transform& at, const StepContext& context) {
    const TurnedForm form = form_of(piece);
    std::optional<Body> body;
    if (!form.empty()) {
        auto turned = turned_profile(closed(form), growth, at, context.source());
        if (!turned) return pass_on(turned);
        body = *turned;
    }
    const PrismForm prism = prism_of(piece);
    if (prism.sides == 0) return *body;
    const double low = prism.low_mm - growth, high = prism.high_mm + growth;
    Transform foot = at;
    foot.translate(Vec3(0, 0, low));
    auto flats = make_prism(prism.sides, prism.flats_mm / 2 + growth, high - low, foot, context.source());
    if (!flats) return pass_on(flats);
    if (body) {
        auto joined = combine(Operation::Join, *flats, {*body}, context.task);
        if (!joined) return pass_on(joined);
        return joined->body;
    }
    const double bore = piece.bore_mm / 2 - growth;
    if (!(bore > 0.05)) return *flats;
    Transform below = at;
    below.translate(Vec3(0, 0, low - 1));
    auto hole = make_cylinder(bore, high - low + 2, below, {context.step_id, context.copy ^ (1ull << 40)});
    if (!hole) return pass_on(hole);
    auto cut = combine(Operation::Cut, *flats, {*hole}, context.task);
    if (!cut) return pass_on(cut);
    return cut->body;
}

} // namespace

StepKind bought_kind() {
    StepKind kind;
    kind.id = "bought";
    kind.title = "Bought piece";
    kind.purpose =
        "A screw, nut, washer, insert, magnet, bearing, pin, cell or tube by its name, in its true form; its "
        "thread is a cylinder as wide as the thread is outside.";
    kind.fields = {
        {"piece", FieldKind::Text, "M3 x 12 countersunk", 0, 0, {}, "M4 nut, magnet 7x2, 608 bearing"},
        {"length", FieldKind::Length, "0 mm", 0, 2000, {}, "of what is sold by length; 0: as its name says"}};
    for (StepField& field : placing_fields({.along = true, .from = {}})) {
        if (field.role == FieldRole::Does) field.standard = "new";
        kind.fields.push_back(field);
    }
    kind.sentence = "Bought {piece}[, {length} long] at {at_x}, {at_y}, {at_z}[ on {on}], along {along}, {does}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"screw",   "nut",      "washer",   "insert", "magnet",
                     "bearing", "hardware", "fastener", "cell",   "battery"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 95},
                   {.when = Chosen::Face,
                    .place = 77,
                    .words = "Bought piece here",
                    .hint = "A screw, nut or magnet as it sits on this face",
                    .fields = {{"does", "new"}},
                    .stands_there = true,
                    .any_body = true,
                    .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto piece = piece_called(context.word("piece"));
        if (!piece) return pass_on(piece);
        if (context.number("length") > 0) piece->length_mm = context.number("length");
        if (!(piece->length_mm > 0))
            return problem(ProblemCode::Missing, "How long is the " + piece->name + "?",
                           "Say M3 x 12, or type its length.");
        if (piece->kind == Piece::Kind::Countersunk &&
            piece->length_mm <= (piece->head_mm - piece->across_mm) / 2 / std::tan(radians(piece->cone_deg / 2)))
            return problem(ProblemCode::Range, "It is shorter than its head.", "Make it longer.");
        auto result = place_solid(before, context, 0, [&](const Transform& at) {
            return make_piece(*piece, context.growth_mm, at, context);
        });
        if (result && result->note.empty())
            result->note = piece->name + (piece->sure ? "" : "; sizes from memory: measure yours");
        return result;
    };
    return kind;
}

} // namespace lp
