// Joints that come off the bed already joined: hinges, chains, captive pins, swivel caps, sliders. Each stands as it is
// to be printed, and nothing in it hangs beyond the printer's limit.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/joint_parts.h"

namespace lp {
namespace {

StepField length(const char* name, const char* standard, const char* hint, double low = 0.5) {
    return {name, FieldKind::Length, standard, low, 1e4, {}, hint};
}

StepKind start(const char* id, const char* title, const char* purpose, std::vector<StepField> own) {
    StepKind kind;
    kind.id = id;
    kind.title = title;
    kind.purpose = purpose;
    kind.for_printer = true;
    kind.fields = std::move(own);
    kind.fields.push_back({"fit", FieldKind::Fit, "in-place", 0, 0, {}, "a named fit, or a gap a face in mm"});
    for (const StepField& field : joint_place_fields()) kind.fields.push_back(field);
    return kind;
}

constexpr const char* standing = ", fit {fit}, at {at_x}, {at_y}, {at_z}[, turned {turn}]";

std::string mm(double value) {
    return format_number(value, 2) + " mm";
}

/// Problem when a pin is too thin for the lines it is printed of.
std::optional<Problem> check_pin(const StepContext& context, const char* what, double width_mm) {
    double least = 3 * context.line_mm;
    if (width_mm >= least) return std::nullopt;
    return Problem{ProblemCode::Range,
                   std::string("The ") + what + " is " + mm(width_mm) + " across, less than three lines of " +
                       mm(context.line_mm) + ".",
                   "Make it at least " + mm(least) + ", or use a finer nozzle.",
                   {},
                   {}};
}

/// Overhang the joint is drawn with: a degree within the limit, so that facets are too.
double steepest(const StepContext& context, double least, double most) {
    return std::clamp(context.overhang_limit_deg - 1, least, most);
}

Expected<Body> block(const Vec3& low, const Vec3& high, const StepContext& context, uint64_t salt) {
    Transform at = Transform::Identity();
    at.translate(low);
    return make_block(high - low, at, joint_tags(context, salt));
}

std::string name_of(const StepContext& context, const char* piece) {
    const std::string& name = context.word("name");
    return name.empty() ? piece : name + " " + piece;
}

/// Moves pieces to where the joint stands.
Expected<StepResult> stand(const std::vector<StepBody>& before, std::vector<StepBody> made, const std::string& note,
                           const StepContext& context) {
    Transform at = joint_place(context);
    for (StepBody& body : made) {
        auto shape = moved(body.body, at);
        if (!shape) return tl::make_unexpected(shape.error());
        body.body = *shape;
        for (CarriedHalo& halo : body.halos) {
            auto envelope = moved(halo.envelope, at);
            if (!envelope) return tl::make_unexpected(envelope.error());
            halo.envelope = *envelope;
        }
        body.made_by = context.step_id;
    }
    return add_joint(before, std::move(made), note);
}

Expected<KnuckleRow> knuckle_row(const StepContext& context, double barrel_mm) {
    KnuckleRow row;
    row.radius_mm = barrel_mm / 2;
    row.cones = context.word("bumps") == "cone";
    row.limit_deg = steepest(context, 20, 70);
    if (auto thin = check_pin(context, "bump of a knuckle", 2 * row.bump_radius_mm()))
        return tl::make_unexpected(*thin);
    auto gap = joint_gap(context, row.bump_height_mm() * 0.75);
    if (!gap) {
        Problem why = gap.error();
        if (why.code == ProblemCode::Range)
            why.advice += " The bumps are " + mm(row.bump_height_mm()) + " high: a wider gap lets them slip out.";
        return tl::make_unexpected(why);
    }
    row.gap_mm = *gap;
    return row;
}

std::string hold_note(const KnuckleRow& row) {
    return "Print it as it stands, flat side down. The bumps reach " + mm(row.bump_height_mm() - row.gap_mm) +
           " into their dimples.";
}

Expected<StepResult> make_hinge(const std::vector<StepBody>& before, const StepContext& context) {
    auto row = knuckle_row(context, context.number("barrel"));
    if (!row) return tl::make_unexpected(row.error());
    const double g = row->gap_mm, r = row->radius_mm, width = context.number("leaf"), len = context.number("length"),
                 t = context.number("thickness");
    const int count = int(context.number("knuckles"));
    const double pitch = len / count;
    if (pitch < 2 * g + 2 * row->bump_height_mm() + 2 * context.line_mm)
        return problem(ProblemCode::Range, "The knuckles are only " + mm(pitch) + " long.",
                       "Use fewer, or a longer hinge.");
    if (width <= r + g + context.line_mm)
        return problem(ProblemCode::Range, "The leaves do not reach beyond the barrel.", "Make them wider.");
    // Even knuckles carry the bumps and belong to the right leaf; odd ones are cut by their halo and belong to the
    // left.
    std::vector<Body> right, left, halo, clear;
    for (int k = 0; k < count; ++k) {
        double from = k * pitch, to = (k + 1) * pitch;
        uint64_t salt = uint64_t(10 * k + 10);
        if (k % 2 == 0) {
            bool first = k > 0, last = k + 1 < count;
            auto made = knuckle(*row, from, to, first, last, 0, context, salt);
            auto grown = knuckle(*row, from, to, first, last, g, context, salt + 2);
            auto arm = block({0, from, 0}, {r + g, to, std::min(t, row->axis_z_mm() + r)}, context, salt + 4);
            for (auto* body : {&made, &grown, &arm})
                if (!*body) return tl::make_unexpected(body->error());
            right.push_back(*made);
            right.push_back(*arm);
            halo.push_back(*grown);
        } else {
            auto made = knuckle(*row, from, to, false, false, 0, context, salt);
            auto arm = block({-r - g, from, 0}, {0, to, std::min(t, row->axis_z_mm() + r)}, context, salt + 4);
            // What of the right leaf would be in this knuckle's way: its barrel, larger by the gap.
            KnuckleRow plain = *row;
            auto way = knuckle(plain, from + g, to - g, false, false, g, context, salt + 2);
            for (auto* body : {&made, &arm, &way})
                if (!*body) return tl::make_unexpected(body->error());
            left.push_back(*made);
            left.push_back(*arm);
            clear.push_back(*way);
        }
    }
    auto leaf_right = block({r * 0.2, 0, 0}, {width, len, t}, context, 1),
         leaf_left = block({-width, 0, 0}, {-r * 0.2, len, t}, context, 2);
    if (!leaf_right || !leaf_left) return tl::make_unexpected(!leaf_right ? leaf_right.error() : leaf_left.error());
    // The leaf keeps clear of the other's knuckles, also above them when it folds.
    auto beside = block({-r, -1, -1}, {r + g, len + 1, t + 1}, context, 3);
    if (!beside) return tl::make_unexpected(beside.error());
    auto plain_right = without(*leaf_right, {*beside}, context);
    if (!plain_right) return tl::make_unexpected(plain_right.error());
    auto other_side = block({-r - g, -1, -1}, {r, len + 1, t + 1}, context, 4);
    if (!other_side) return tl::make_unexpected(other_side.error());
    auto plain_left = without(*leaf_left, {*other_side}, context);
    if (!plain_left) return tl::make_unexpected(plain_left.error());
    right.push_back(*plain_right);
    left.push_back(*plain_left);
    auto a = joined(right, context);
    auto envelope = joined(halo, context);
    if (!a || !envelope) return tl::make_unexpected(!a ? a.error() : envelope.error());
    auto whole_left = joined(left, context);
    if (!whole_left) return tl::make_unexpected(whole_left.error());
    auto b = without(*whole_left, {*envelope}, context);
    if (!b) return tl::make_unexpected(b.error());
    // The right knuckles' arms pass beside the left ones at the gap.
    std::vector<StepBody> made{{0, name_of(context, "right leaf"), *a, {}}, {0, name_of(context, "left leaf"), *b, {}}};
    made[0].halos.push_back({context.step_id, context.word("fit"), g, *envelope});
    return stand(before, std::move(made), hold_note(*row), context);
}

/// One link from joint to joint, its tongue on the axis at x 0, its fork on the axis at `pitch`.
struct LinkPieces {
    Body body;
    Body halo; ///< of the fork's knuckles; none without a fork
};

Expected<LinkPieces> make_link(const KnuckleRow& row, double pitch, double width, bool tongue, bool fork,
                               const StepContext& context, uint64_t salt) {
    const double r = row.radius_mm, g = row.gap_mm, third = width / 3, half = width / 2;
    const double top = row.axis_z_mm() + r * 0.7071;
    std::vector<Body> pieces;
    std::vector<Body> halos;
    auto take = [&](Expected<Body> body, std::vector<Body>& into) -> std::optional<Problem> {
        if (!body) return body.error();
        into.push_back(*body);
        return std::nullopt;
    };
    // The bar: cut flat where an end has no neighbour.
    double from = tongue ? r + g : -r, to = fork ? pitch - r - g : pitch + r;
    std::optional<Problem> wrong = take(block({from, -half, 0}, {to, half, top}, context, salt + 1), pieces);
    if (tongue && !wrong) {
        wrong = take(knuckle(row, -third / 2, third / 2, false, false, 0, context, salt + 2), pieces);
        if (!wrong) wrong = take(block({0, -third / 2, 0}, {r + g + 0.01, third / 2, top}, context, salt + 4), pieces);
    }
    if (fork && !wrong) {
        double inner = third / 2 + g; // the tongue fills the middle third
        std::vector<Body> at_joint;
        for (int side = 0; side < 2 && !wrong; ++side) {
            double low = side ? inner : -half, high = side ? half : -inner;
            wrong = take(knuckle(row, low, high, side == 1, side == 0, 0, context, salt + 6 + 10 * side), at_joint);
            if (!wrong)
                wrong = take(knuckle(row, low, high, side == 1, side == 0, g, context, salt + 8 + 10 * side), halos);
            if (!wrong)
                wrong = take(block({-r - g - 0.01, low, 0}, {0, high, top}, context, salt + 10 + 10 * side), at_joint);
        }
        Transform move = Transform::Identity();
        move.translate(Vec3(pitch, 0, 0));
        for (const Body& body : at_joint)
            if (!wrong) wrong = take(moved(body, move), pieces);
        for (Body& halo : halos) {
            auto shifted = moved(halo, move);
            if (!shifted) return tl::make_unexpected(shifted.error());
            halo = *shifted;
        }
    }
    if (wrong) return tl::make_unexpected(*wrong);
    LinkPieces link;
    auto body = joined(pieces, context);
    if (!body) return tl::make_unexpected(body.error());
    link.body = *body;
    if (!halos.empty()) {
        auto halo = joined(halos, context);
        if (!halo) return tl::make_unexpected(halo.error());
        link.halo = *halo;
    }
    return link;
}

Expected<StepResult> make_chain(const std::vector<StepBody>& before, const StepContext& context) {
    auto row = knuckle_row(context, context.number("barrel"));
    if (!row) return tl::make_unexpected(row.error());
    const int count = int(context.number("links"));
    const double pitch = context.number("pitch"), width = context.number("width"), r = row->radius_mm, g = row->gap_mm;
    if (pitch < 2 * (r + g) + context.line_mm)
        return problem(ProblemCode::Range, "The links are too short: there is nothing between their joints.",
                       "Use a pitch of " + mm(2 * (r + g) + 4 * context.line_mm) + " or more.");
    if (width / 3 < 2 * row->bump_height_mm() + context.line_mm || width / 3 - g < 3 * context.line_mm)
        return problem(ProblemCode::Range, "The links are too narrow for three knuckles side by side.",
                       "Make them wider, or the barrel thinner.");
    // The first, a middle one and the last are made; the rest are copies. A tongue is opened by the fork before it.
    std::vector<StepBody> made;
    std::map<std::pair<bool, bool>, LinkPieces> kinds;
    Transform back = Transform::Identity();
    back.translate(Vec3(-pitch, 0, 0));
    std::optional<Body> fork_halo; // at x 0
    for (int k = 0; k < count; ++k) {
        if (context.cancelled()) return cancelled();
        context.task.tell("Making links", double(k) / count);
        bool tongue = k > 0, fork = k + 1 < count;
        auto kind = kinds.find({tongue, fork});
        if (kind == kinds.end()) {
            auto link = make_link(*row, pitch, width, tongue, fork, context, uint64_t(100 * (1 + tongue + 2 * fork)));
            if (!link) return tl::make_unexpected(link.error());
            if (fork && !fork_halo) {
                auto halo = moved(link->halo, back);
                if (!halo) return tl::make_unexpected(halo.error());
                fork_halo = *halo;
            }
            if (tongue) {
                auto opened = without(link->body, {*fork_halo}, context);
                if (!opened) return tl::make_unexpected(opened.error());
                link->body = *opened;
            }
            kind = kinds.emplace(std::pair(tongue, fork), *link).first;
        }
        Affine place = Affine(Eigen::Translation3d(k * pitch, 0, 0));
        auto body = mapped(kind->second.body, place);
        if (!body) return tl::make_unexpected(body.error());
        StepBody link{0,
                      name_of(context, "link") + " " + std::to_string(k + 1),
                      renamed_copy(*body, context.step_id, uint64_t(k) + 1),
                      {}};
        if (fork) {
            auto halo = mapped(kind->second.halo, place);
            if (!halo) return tl::make_unexpected(halo.error());
            link.halos.push_back({context.step_id, context.word("fit"), g, *halo});
        }
        made.push_back(std::move(link));
    }
    return stand(before, std::move(made), hold_note(*row), context);
}

/// A pin that turns in a collar and cannot leave it: a double cone half way up.
Expected<StepResult> make_pin(const std::vector<StepBody>& before, const StepContext& context) {
    const double r = context.number("pin") / 2, height = context.number("height"), outer = context.number("collar") / 2;
    const double slope = std::tan(radians(steepest(context, 20, 70)));
    if (auto thin = check_pin(context, "pin", 2 * r)) return tl::make_unexpected(*thin);
    const double bulge = context.number("bulge");
    auto gap = joint_gap(context, bulge * 0.75);
    if (!gap) return tl::make_unexpected(gap.error());
    const double rise = bulge / slope, mid = height / 2;
    if (2 * rise > height - 4 * context.line_mm)
        return problem(ProblemCode::Range, "The bulge does not fit into the height of the pin.",
                       "Make the pin at least " + mm(2 * rise + 4 * context.line_mm) + " high, or the bulge smaller.");
    if (outer < r + bulge + *gap * 1.5 + 2 * context.line_mm)
        return problem(ProblemCode::Range, "The collar has no wall left round the pin.",
                       "Make it at least " + mm(2 * (r + bulge + *gap * 1.5 + 2 * context.line_mm)) + " across.");
    std::vector<Vec2> profile{{0, 0},          {r, 0},      {r, mid - rise}, {r + bulge, mid},
                              {r, mid + rise}, {r, height}, {0, height}};
    const Transform home = Transform::Identity();
    auto pin = turned_profile(closed_line(profile), 0, home, context, 1);
    auto halo = turned_profile(closed_line(profile), *gap, home, context, 2);
    auto full = make_cylinder(outer, height, home, joint_tags(context, 3));
    for (auto* body : {&pin, &halo, &full})
        if (!*body) return tl::make_unexpected(body->error());
    auto collar = without(*full, {*halo}, context);
    if (!collar) return tl::make_unexpected(collar.error());
    std::vector<StepBody> made{{0, name_of(context, "pin"), *pin, {}}, {0, name_of(context, "collar"), *collar, {}}};
    made[0].halos.push_back({context.step_id, context.word("fit"), *gap, *halo});
    return stand(before, std::move(made),
                 "Print it standing. The bulge holds the pin by " + mm(bulge - *gap) + " all round.", context);
}

/// A ball on a stem in a cap whose skirt reaches the bed: it swivels about any axis, tilts until the stem meets the
/// mouth.
Expected<StepResult> make_swivel(const std::vector<StepBody>& before, const StepContext& context) {
    const double r = context.number("ball") / 2, wall = context.number("wall");
    const double limit = radians(steepest(context, 30, 60));
    const double stem = context.number("stem") / 2;
    if (auto thin = check_pin(context, "stem", 2 * stem)) return tl::make_unexpected(*thin);
    auto gap = joint_gap(context, r * 0.3);
    if (!gap) return tl::make_unexpected(gap.error());
    const double g = *gap;
    // Below, the ball rests on a cone as steep as the limit that touches it; the cone narrows to the stem.
    const double ring = r * std::cos(limit), below = r * std::sin(limit), slope = std::tan(limit);
    const double drop = (ring - stem) / slope; // of the cone
    if (stem > ring * 0.85)
        return problem(ProblemCode::Range, "The stem is nearly as wide as the ball.",
                       "Make it " + mm(2 * ring * 0.85) + " or thinner.");
    const double centre = below + drop + context.number("stem_height");
    // The mouth must hold the ball: narrower than it.
    const double mouth = (r + g) * std::cos(limit), hold = r - mouth;
    if (hold < g + 0.15)
        return problem(ProblemCode::Range,
                       "The cap would not hold the ball: its mouth is only " + mm(hold) + " narrower.",
                       "Use a larger ball or a closer fit.");
    std::vector<Curve> ball{Curve::line({0, 0}, {stem, 0}), Curve::line({stem, 0}, {stem, centre - below - drop}),
                            Curve::line({stem, centre - below - drop}, {ring, centre - below}),
                            Curve::arc_between({0, centre}, {ring, centre - below}, {0, centre + r}, true),
                            Curve::line({0, centre + r}, {0, 0})};
    // The cavity: round the ball, a straight mouth below, a cone as roof.
    const double R = r + g, edge = R * std::sin(limit), tip = edge + mouth / slope;
    std::vector<Curve> cavity{Curve::line({0, -1}, {mouth, -1}), Curve::line({mouth, -1}, {mouth, centre - edge}),
                              Curve::arc_between({0, centre}, {mouth, centre - edge}, {mouth, centre + edge}, true),
                              Curve::line({mouth, centre + edge}, {0, centre + tip}),
                              Curve::line({0, centre + tip}, {0, -1})};
    const Transform home = Transform::Identity();
    auto inner = turned_profile(ball, 0, home, context, 1);
    auto hollow = turned_profile(cavity, 0, home, context, 2);
    auto outside = make_cylinder(R + wall, centre + tip + wall, home, joint_tags(context, 3));
    for (auto* body : {&inner, &hollow, &outside})
        if (!*body) return tl::make_unexpected(body->error());
    auto cap = without(*outside, {*hollow}, context);
    if (!cap) return tl::make_unexpected(cap.error());
    std::vector<StepBody> made{{0, name_of(context, "ball"), *inner, {}}, {0, name_of(context, "cap"), *cap, {}}};
    made[0].halos.push_back({context.step_id, context.word("fit"), g, *hollow});
    double tilt = degrees(std::asin(std::clamp((mouth - stem) / std::max(edge, 1e-9) * 0.7, 0.0, 1.0)));
    return stand(before, std::move(made),
                 "Print it standing on the stem and the skirt. The mouth holds the ball by " + mm(hold) +
                     "; it tilts about " + format_number(tilt, 0) + "° each way.",
                 context);
}

/// A dovetail in a frame, stops at both ends: slides along x, cannot leave.
Expected<StepResult> make_slider(const std::vector<StepBody>& before, const StepContext& context) {
    const double width = context.number("slider_width"), height = context.number("height"),
                 len = context.number("slider_length"), travel = context.number("travel"),
                 wall = context.number("wall");
    const double lean = height * std::tan(radians(steepest(context, 20, 45))) / 2;
    if (auto thin = check_pin(context, "slider's top", width - 2 * lean)) return tl::make_unexpected(*thin);
    auto gap = joint_gap(context, lean * 0.6);
    if (!gap) {
        Problem why = gap.error();
        if (why.code == ProblemCode::Range)
            why.advice += " The flanks lean " + mm(lean) + " in: a wider gap lets it out.";
        return tl::make_unexpected(why);
    }
    const double g = *gap, half = width / 2;
    // The section in y and z, drawn along x: wide at the foot. Half way up it is `width` across.
    std::vector<Vec2> section{{-half - lean, 0}, {half + lean, 0}, {half - lean, height}, {-half + lean, height}};
    Transform along = Transform::Identity();
    along.linear() = Eigen::Matrix3d{{0, 0, 1}, {1, 0, 0}, {0, 1, 0}}; // drawn x to y, y to z, raised along x
    auto slider = raised_profile(section, len, 0, along, context, 1);
    Transform room = along;
    room.pretranslate(Vec3(-g, 0, 0));
    auto hollow = raised_profile(section, len + travel + 2 * g, g, room, context, 2);
    Transform near = along;
    near.pretranslate(Vec3(-g, 0, 0));
    auto envelope = raised_profile(section, len + 2 * g, g, near, context, 4);
    double side = half + lean + g * 2 + wall;
    auto frame = block({-g - wall, -side, 0}, {len + travel + g + wall, side, height}, context, 3);
    for (auto* body : {&slider, &hollow, &envelope, &frame})
        if (!*body) return tl::make_unexpected(body->error());
    auto open = without(*frame, {*hollow}, context);
    if (!open) return tl::make_unexpected(open.error());
    std::vector<StepBody> made{{0, name_of(context, "slider"), *slider, {}}, {0, name_of(context, "frame"), *open, {}}};
    made[0].halos.push_back({context.step_id, context.word("fit"), g, *envelope});
    return stand(before, std::move(made),
                 "Print it flat. It slides " + mm(travel) + " along; the flanks hold it by " + mm(lean - g) + ".",
                 context);
}

} // namespace

StepKind hinge_kind() {
    StepKind kind = start("hinge", "Hinge", "A hinge that comes off the bed joined: knuckles with balls or cones.",
                          {length("length", "30 mm", "along the axis"),
                           length("leaf", "18 mm", "width of each leaf"),
                           length("thickness", "2.4 mm", "of the leaves"),
                           length("barrel", "8 mm", "across the knuckles"),
                           {"knuckles", FieldKind::Count, "3", 2, 51, {}, "of both leaves together"},
                           {"bumps", FieldKind::Choice, "ball", 0, 0, {"ball", "cone"}, "what holds the knuckles"}});
    kind.sentence = std::string("Hinge {length} long of {knuckles} knuckles {barrel} across, held by {bumps}s, leaves "
                                "{leaf} wide and {thickness} thick") +
                    standing;
    kind.evaluate = make_hinge;
    return kind;
}

StepKind chain_kind() {
    StepKind kind = start("chain", "Chain", "Links that come off the bed joined, their ends cut clean.",
                          {{"links", FieldKind::Count, "5", 2, 500, {}, "in a row"},
                           length("pitch", "20 mm", "from joint to joint"),
                           length("width", "15 mm", "of a link"),
                           length("barrel", "8 mm", "across the knuckles"),
                           {"bumps", FieldKind::Choice, "ball", 0, 0, {"ball", "cone"}, "what holds the knuckles"}});
    kind.sentence =
        std::string("Chain of {links} links {pitch} long and {width} wide, knuckles {barrel} across, held by "
                    "{bumps}s") +
        standing;
    kind.evaluate = make_chain;
    return kind;
}

StepKind captive_pin_kind() {
    StepKind kind =
        start("captive_pin", "Captive pin", "A pin that turns in a collar and cannot leave it.",
              {length("pin", "8 mm", "across"), length("height", "12 mm", "of both"),
               length("collar", "20 mm", "across, outside"), length("bulge", "1.5 mm", "out, half way up")});
    kind.sentence =
        std::string("Captive pin {pin} across with a bulge of {bulge} in a collar {collar} across, {height} "
                    "high") +
        standing;
    kind.evaluate = make_pin;
    return kind;
}

StepKind swivel_cap_kind() {
    StepKind kind =
        start("swivel_cap", "Swivel cap", "A ball on a stem in a cap that turns and tilts on it.",
              {length("ball", "14 mm", "across"), length("stem", "5 mm", "across"),
               length("stem_height", "2 mm", "of its straight part", 0), length("wall", "2 mm", "of the cap")});
    kind.sentence =
        std::string(
            "Swivel cap with a wall of {wall} on a ball {ball} across, stem {stem} across, {stem_height} straight") +
        standing;
    kind.evaluate = make_swivel;
    return kind;
}

StepKind captive_slider_kind() {
    StepKind kind = start("captive_slider", "Captive slider", "A dovetail that slides in a frame and cannot leave it.",
                          {length("slider_length", "15 mm", "of the slider"),
                           length("slider_width", "10 mm", "half way up"), length("height", "5 mm", "of both"),
                           length("travel", "20 mm", "how far it slides"), length("wall", "3 mm", "of the frame")});
    kind.sentence = std::string("Captive slider {slider_length} long, {slider_width} wide and {height} high, sliding "
                                "{travel} in a frame with walls of {wall}") +
                    standing;
    kind.evaluate = make_slider;
    return kind;
}

} // namespace lp
