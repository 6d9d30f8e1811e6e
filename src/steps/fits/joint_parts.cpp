#include "steps/fits/joint_parts.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/fits/chamfered_foot.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {

std::vector<Curve> closed_line(const std::vector<Vec2>& corners) {
    std::vector<Curve> curves;
    for (size_t i = 0; i < corners.size(); ++i) {
        const Vec2 &a = corners[i], &b = corners[(i + 1) % corners.size()];
        if ((a - b).norm() > 1e-9) curves.push_back(Curve::line(a, b));
    }
    return curves;
}

TagSource joint_tags(const StepContext& context, uint64_t salt) {
    return {context.step_id, context.copy ^ (salt << 40)};
}

Expected<Body> turned_profile(const std::vector<Curve>& profile, double growth_mm, const Transform& at,
                              const StepContext& context, uint64_t salt) {
    return turned_profile(profile, growth_mm, at, joint_tags(context, salt));
}

Expected<Body> raised_profile(const std::vector<Vec2>& corners, double height, double growth_mm, const Transform& at,
                              const StepContext& context, uint64_t salt) {
    auto regions = region_of(closed_line(corners));
    if (regions && growth_mm != 0) regions = grown_regions(*regions, growth_mm);
    if (!regions) return pass_on(regions);
    return raised_body(*regions, 0, height, 0, at, joint_tags(context, salt));
}

Expected<Body> joined(const std::vector<Body>& bodies, const StepContext& context) {
    if (bodies.size() == 1) return bodies.front();
    auto made = combine(Operation::Join, bodies.front(), {bodies.begin() + 1, bodies.end()}, context.task);
    if (!made) return pass_on(made);
    return made->body;
}

Expected<Body> without(const Body& body, const std::vector<Body>& tools, const StepContext& context) {
    std::vector<Body> near;
    for (const Body& tool : tools)
        if (tool.box().intersects(body.box())) near.push_back(tool);
    if (near.empty()) return body;
    auto made = combine(Operation::Cut, body, near, context.task);
    if (!made) return pass_on(made);
    return made->body;
}

std::vector<StepField> joint_place_fields() {
    const double far = tolerance::largest_mm;
    return {{"at_x", FieldKind::Length, "0 mm", -far, far, {}, "left to right"},
            {"at_y", FieldKind::Length, "0 mm", -far, far, {}, "front to back"},
            {"at_z", FieldKind::Length, "0 mm", -far, far, {}, "of the foot; it prints standing there"},
            {"turn", FieldKind::Angle, "0 deg", -3600, 3600, {}, "about the upright axis"}};
}

Transform joint_place(const StepContext& context) {
    Transform at = Transform::Identity();
    at.translate(Vec3(context.number("at_x"), context.number("at_y"), context.number("at_z")));
    at.rotate(Eigen::AngleAxisd(radians(context.number("turn")), Vec3::UnitZ()));
    return at;
}

Expected<double> joint_gap(const StepContext& context, double largest_mm) {
    if (context.growth_mm != 0)
        return problem(ProblemCode::Geometry, "A joint cannot be remade larger by its numbers.", "");
    auto gap = context.fit_gap(context.word("fit"), "");
    if (!gap) return gap;
    if (*gap < 0.05 || *gap > largest_mm)
        return problem(ProblemCode::Range,
                       "A gap of " + format_quantity(*gap, QuantityKind::Length) + " does not go with these sizes.",
                       "Use 0.05 mm to " + format_quantity(largest_mm, QuantityKind::Length, 2) +
                           ", or make the joint larger.");
    return gap;
}

StepResult add_joint(const std::vector<StepBody>& before, std::vector<StepBody> made, const std::string& note) {
    StepResult result{before, note, {}};
    for (StepBody& body : made) result.bodies.push_back(std::move(body));
    return result;
}

double KnuckleRow::axis_z_mm() const {
    return radius_mm * std::sin(radians(limit_deg));
}
double KnuckleRow::bump_radius_mm() const {
    return 0.62 * radius_mm;
}
double KnuckleRow::bump_height_mm() const {
    double a = bump_radius_mm(), steep = std::min(limit_deg, 60.0);
    // A cone on a lying axis hangs by 90 degrees less its half angle. Its point is blunt.
    if (cones) return (a - 0.12 * radius_mm) * std::tan(radians(steep));
    double r = a / std::sin(radians(steep));
    return r * (1 - std::cos(radians(steep)));
}

Expected<Body> knuckle(const KnuckleRow& row, double from, double to, bool bump_from, bool bump_to, double growth_mm,
                       const StepContext& context, uint64_t salt) {
    const double r = row.radius_mm, a = row.bump_radius_mm(), h = row.bump_height_mm(), blunt = 0.12 * r;
    std::vector<Curve> profile;
    // Up the axis from its lower end: bump, end face, wall, end face, bump. Bumps are cones, or caps whose rim is as
    // steep as the limit.
    auto cap = [&](double y, double way, bool outward) {
        Vec2 foot(a, y), tip(row.cones ? blunt : 0, y + way * h);
        std::vector<Curve> curves;
        if (row.cones) {
            curves.push_back(Curve::line(tip, foot));
            curves.insert(curves.begin(), Curve::line({0, tip.y()}, tip));
        } else {
            double rise = a / std::tan(radians(std::min(row.limit_deg, 60.0)));
            Vec2 centre(0, y - way * rise);
            curves.push_back(Curve::arc_between(centre, tip, foot, way < 0));
        }
        if (outward) return curves;
        std::reverse(curves.begin(), curves.end());
        for (Curve& c : curves) c = c.reversed();
        return curves;
    };
    if (bump_from) {
        for (const Curve& c : cap(from, -1, true)) profile.push_back(c);
        profile.push_back(Curve::line({a, from}, {r, from}));
    } else {
        profile.push_back(Curve::line({0, from}, {r, from}));
    }
    profile.push_back(Curve::line({r, from}, {r, to}));
    if (bump_to) {
        profile.push_back(Curve::line({r, to}, {a, to}));
        for (const Curve& c : cap(to, 1, false)) profile.push_back(c);
    } else {
        profile.push_back(Curve::line({r, to}, {0, to}));
    }
    Vec2 top = profile.back().last(), bottom = profile.front().first();
    profile.push_back(Curve::line(top, bottom));
    Transform axis = Transform::Identity();
    axis.translate(Vec3(0, 0, row.axis_z_mm()));
    axis.linear() = Eigen::Matrix3d{{-1, 0, 0}, {0, 0, 1}, {0, 1, 0}}; // local z along y
    auto body = turned_profile(profile, growth_mm, axis, context, salt);
    if (!body) return body;
    double reach = 4 * (r + growth_mm + std::fabs(from) + std::fabs(to)) + 10;
    Transform below = Transform::Identity();
    below.translate(Vec3(-reach, -reach, -2 * reach));
    auto bed = make_block({2 * reach, 2 * reach, 2 * reach}, below, joint_tags(context, salt + 1));
    if (!bed) return bed;
    return growth_mm != 0 ? body : without(*body, {*bed}, context);
}

StepField joint_length(const char* name, const char* standard, const char* hint, double low) {
    return {name, FieldKind::Length, standard, low, 1e4, {}, hint};
}

StepKind joint_kind(const char* id, const char* title, const char* purpose, std::vector<StepField> own) {
    StepKind kind;
    kind.id = id;
    kind.title = title;
    kind.purpose = purpose;
    kind.for_printer = true;
    kind.fields = std::move(own);
    kind.fields.push_back({"fit", FieldKind::Fit, "in-place", 0, 0, {}, "a named fit, or a gap a face in mm"});
    for (const StepField& field : joint_place_fields()) kind.fields.push_back(field);
    kind.fields.push_back({"foot",
                           FieldKind::Choice,
                           "chamfered",
                           0,
                           0,
                           {"chamfered", "plain"},
                           "chamfered as the printer card asks, so that the first layer joins nothing"});
    return kind;
}

std::string in_mm(double value) {
    return format_number(value, 2) + " mm";
}

std::optional<Problem> check_pin(const StepContext& context, const char* what, double width_mm) {
    double least = 3 * context.line_mm;
    if (width_mm >= least) return std::nullopt;
    return Problem{ProblemCode::Range,
                   std::string("The ") + what + " is " + in_mm(width_mm) + " across, less than three lines of " +
                       in_mm(context.line_mm) + ".",
                   "Make it at least " + in_mm(least) + ", or use a finer nozzle."};
}

std::optional<Problem> check_spring(const StepContext& context, double thick_mm) {
    const double least = 2 * context.line_mm;
    if (thick_mm >= least - 1e-9) return std::nullopt;
    return Problem{ProblemCode::Range,
                   "An arm of " + in_mm(thick_mm) + " is thinner than two lines of " + in_mm(context.line_mm) + ".",
                   "Make it at least " + in_mm(least) + ", or use a finer nozzle."};
}

std::string strain_words(const StepContext& context, double percent, const char* breaks) {
    const std::string allowed = format_number(context.strain_percent, 1) + " %";
    const std::string says = "strained by " + format_number(percent, 1) + " %";
    if (percent > context.strain_percent + 1e-6)
        return says + ", more than the " + allowed + " of the material card: " + breaks;
    return says + " of " + allowed;
}

void add_note(StepResult& result, const std::string& more) {
    result.note += (result.note.empty() ? "" : " ") + more;
}

bool is_told(const StepContext& context) {
    return context.growth_mm == 0 && context.word("does") != "cut";
}

Expected<StepResult> place_bending(const std::vector<StepBody>& before, const StepContext& context,
                                   const BendingSolid& solid) {
    std::vector<Bending> bends;
    auto result = place_solid(
        before, context, 0,
        [&](const Transform& foot) {
            Transform at = foot;
            at.rotate(Eigen::AngleAxisd(radians(context.number("turn")), Vec3::UnitZ()));
            bends = solid.bends(at);
            return solid.make(at);
        },
        solid.handles);
    if (!result || !is_told(context)) return result;
    const bool alone = context.word("does") == "new" || before.empty();
    auto& its = (alone ? result->bodies.back() : result->bodies.front()).bends;
    its.insert(its.end(), bends.begin(), bends.end());
    return result;
}

double steepest(const StepContext& context, double least, double most) {
    return std::clamp(context.overhang_limit_deg - 1, least, most);
}

Expected<Body> joint_block(const Vec3& low, const Vec3& high, const StepContext& context, uint64_t salt) {
    Transform at = Transform::Identity();
    at.translate(low);
    return make_block(high - low, at, joint_tags(context, salt));
}

std::string piece_name(const StepContext& context, const char* piece) {
    const std::string& name = context.name;
    return name.empty() ? piece : name + " " + piece;
}

bool plain_foot(const StepContext& context) {
    return context.word("foot") == "plain";
}

Expected<StepResult> stand_joint(const std::vector<StepBody>& before, std::vector<StepBody> made,
                                 const std::string& note, const StepContext& context, bool chamfered) {
    Transform at = joint_place(context);
    if (!chamfered && !plain_foot(context)) {
        std::vector<Body> bodies;
        for (const StepBody& body : made) bodies.push_back(body.body);
        size_t count = 0;
        auto feet = with_chamfered_feet(std::move(bodies), Transform::Identity(), context, count);
        if (!feet) return pass_on(feet);
        for (size_t i = 0; i < made.size(); ++i) made[i].body = (*feet)[i];
    }
    for (StepBody& body : made) {
        auto shape = moved(body.body, at);
        if (!shape) return pass_on(shape);
        body.body = *shape;
        for (CarriedHalo& halo : body.halos) {
            auto envelope = moved(halo.envelope, at);
            if (!envelope) return pass_on(envelope);
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
    if (auto thin = check_pin(context, "bump of a knuckle", 2 * row.bump_radius_mm())) return pass_on(*thin);
    auto gap = joint_gap(context, row.bump_height_mm() * 0.75);
    if (!gap) {
        Problem why = gap.error();
        if (why.code == ProblemCode::Range)
            why.advice += " The bumps are " + in_mm(row.bump_height_mm()) + " high: a wider gap lets them slip out.";
        return pass_on(why);
    }
    row.gap_mm = *gap;
    return row;
}

std::string hold_note(const KnuckleRow& row) {
    return "Print it as it stands, flat side down. The bumps reach " + in_mm(row.bump_height_mm() - row.gap_mm) +
           " into their dimples.";
}

} // namespace lp
