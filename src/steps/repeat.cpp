// Repeating: what steps joined or cut, or whole bodies, in rows, round an axis, along a path, or mirrored.
#include "base/tolerance.h"
#include "outline/chains.h"
#include "steps/find_edges.h"
#include "steps/find_plane.h"
#include "steps/pick_bodies.h"
#include "steps/step_bodies.h"
#include <algorithm>

namespace lp {
namespace {

constexpr size_t many = 1000; ///< more copies are made only when asked twice

/// Numbers of instances left out, the original being 1.
Expected<std::vector<bool>> dropped(const std::string& text, size_t count) {
    std::vector<bool> drop(count + 1, false);
    for (const std::string& one : listed(text, ',')) {
        char* end = nullptr;
        long n = std::strtol(one.c_str(), &end, 10);
        if (*end || n < 2 || size_t(n) > count)
            return problem(ProblemCode::Wording, "\"" + one + "\" is no copy that can be left out.",
                           "Write numbers from 2 to " + std::to_string(count) + ", by commas; 1 is the original.");
        drop[size_t(n)] = true;
    }
    return drop;
}

/// Applies copies of bodies at `places` (without the original) all at once.
class Repeater {
  public:
    Repeater(const std::vector<StepBody>& before, const StepContext& context, std::vector<Affine> places)
        : before_(before), c_(context), places_(std::move(places)) {}

    Expected<StepResult> run() {
        if (places_.size() + 1 > many && c_.word("many") != "yes") {
            Problem ask{ProblemCode::Range,
                        "That is " + std::to_string(places_.size() + 1) + " copies, which takes long.",
                        "Say yes to make them, or use fewer.",
                        {},
                        {},
                        FieldCure{"many", "yes"}};
            return tl::make_unexpected(ask);
        }
        auto drop = dropped(c_.word("drop"), places_.size() + 1);
        if (!drop) return tl::make_unexpected(drop.error());
        drop_ = *drop;
        return listed(c_.word("steps"), ',').empty() ? bodies() : steps();
    }

  private:
    Expected<std::vector<Body>> copies(const Body& body, uint64_t salt) {
        std::vector<Body> all;
        for (size_t k = 0; k < places_.size(); ++k) {
            if (c_.cancelled()) return cancelled();
            if (drop_[k + 2]) continue;
            c_.task.tell("Repeating", double(k) / double(places_.size()));
            auto copy = mapped(body, places_[k]);
            if (!copy) return tl::make_unexpected(copy.error());
            all.push_back(renamed_copy(*copy, c_.step_id, (salt << 20) + k + 1));
        }
        return all;
    }

    Expected<std::vector<std::vector<CarriedHalo>>> halos_of_copies(const StepBody& body) {
        std::vector<std::vector<CarriedHalo>> all;
        for (size_t k = 0; k < places_.size(); ++k) {
            if (drop_[k + 2]) continue;
            auto halos = mapped_halos(body.halos, places_[k]);
            if (!halos) return tl::make_unexpected(halos.error());
            all.push_back(std::move(*halos));
        }
        return all;
    }

    Expected<StepResult> bodies() {
        auto chosen = pick_bodies(before_, c_.word("what"), "repeat");
        if (!chosen) return tl::make_unexpected(chosen.error());
        StepResult result{before_, {}, {}};
        for (size_t i : *chosen) {
            auto made = copies(before_[i].body, 0);
            if (!made) return tl::make_unexpected(made.error());
            auto halos = halos_of_copies(before_[i]);
            if (!halos) return tl::make_unexpected(halos.error());
            if (c_.word("does") == "new") {
                for (size_t k = 0; k < made->size(); ++k)
                    result.bodies.push_back(
                        {c_.step_id,
                         before_[i].name.empty() ? std::string() : before_[i].name + " " + std::to_string(k + 2),
                         (*made)[k], (*halos)[k]});
                continue;
            }
            for (const auto& more : *halos)
                result.bodies[i].halos.insert(result.bodies[i].halos.end(), more.begin(), more.end());
            int pieces = before_[i].body.pieces();
            auto joined = combine(Operation::Join, before_[i].body, *made, c_.task);
            if (!joined) return tl::make_unexpected(joined.error());
            result.bodies[i].body = joined->body;
            if (!joined->note.empty()) result.note = joined->note;
            tell_pieces(result, i, pieces);
        }
        return result;
    }

    Expected<StepResult> steps() {
        if (before_.empty())
            return problem(ProblemCode::Missing, "There is no body yet to repeat on.", "Put a solid before this step.");
        StepResult result{before_, {}, {}};
        Body& target = result.bodies.front().body;
        int pieces = target.pieces();
        uint64_t salt = 0;
        for (const std::string& name : listed(c_.word("steps"), ',')) {
            auto step = c_.step_named ? c_.step_named(name) : std::nullopt;
            if (!step)
                return problem(ProblemCode::Missing, "There is no step called \"" + name + "\".", "Name another.");
            auto tools = c_.tools_of ? c_.tools_of(*step) : std::vector<StepTool>{};
            if (tools.empty())
                return problem(ProblemCode::Geometry,
                               "Step \"" + name + "\" joins or cuts nothing by itself before this.",
                               "Repeat the step that makes the solid, or the whole body.");
            for (const StepTool& tool : tools) {
                auto body = tool.body();
                if (!body) return tl::make_unexpected(body.error());
                auto made = copies(*body, ++salt);
                if (!made) return tl::make_unexpected(made.error());
                if (made->empty()) continue;
                if (tool.operation == Operation::Common)
                    return problem(ProblemCode::Geometry,
                                   "Step \"" + name + "\" keeps what is common: it cannot repeat.",
                                   "Repeat steps that join or cut.");
                Operation operation = c_.word("does") == "cut" ? Operation::Cut : tool.operation;
                auto combined = combine(operation, target, *made, c_.task);
                if (!combined) return tl::make_unexpected(combined.error());
                if (!combined->note.empty()) result.note = combined->note;
                target = combined->body;
                result.tools.push_back(
                    {operation, [made = *made]() -> Expected<Body> {
                         if (made.size() == 1) return made.front();
                         auto all = combine(Operation::Join, made.front(), {made.begin() + 1, made.end()});
                         if (!all) return tl::make_unexpected(all.error());
                         return all->body;
                     }});
            }
        }
        tell_pieces(result, 0, pieces);
        return result;
    }

    const std::vector<StepBody>& before_;
    const StepContext& c_;
    std::vector<Affine> places_;
    std::vector<bool> drop_;
};

std::vector<StepField> repeating_fields(std::vector<StepField> own) {
    std::vector<StepField> all{
        {"steps", FieldKind::Steps, "", 0, 0, {}, "steps whose solids are repeated, by commas; empty: whole bodies"},
        {"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies that are repeated when no steps are named"}};
    for (StepField& f : own) all.push_back(std::move(f));
    all.push_back({"drop", FieldKind::Text, "", 0, 0, {}, "copies left out, by number; 1 is the original"});
    all.push_back({"does", FieldKind::Choice, "join", 0, 0, {"join", "new"}, "copies of bodies: joined, or their own"});
    all.push_back({"many", FieldKind::Choice, "no", 0, 0, {"no", "yes"}, "more than 1000 copies are meant"});
    return all;
}

const char* repeated_words = "Repeat {steps}[ of {what}]";

Vec3 axis_named(const std::string& name) {
    return name == "x" ? Vec3::UnitX() : name == "y" ? Vec3::UnitY() : Vec3::UnitZ();
}

Affine turn_about(const Vec3& axis, const Vec3& through, double angle_deg) {
    Affine t = Affine::Identity();
    t.translate(through);
    t.rotate(Eigen::AngleAxisd(radians(angle_deg), axis));
    t.translate(-through);
    return t;
}

} // namespace

StepKind repeat_kind() {
    StepKind kind;
    kind.id = "repeat";
    kind.title = "Repeat in rows";
    kind.purpose = "Copies what steps made, or bodies, at equal steps in one or two directions.";
    const double far = tolerance::largest_mm;
    kind.fields = repeating_fields({{"count", FieldKind::Count, "3", 1, 100000, {}, "with the original"},
                                    {"by_x", FieldKind::Length, "10 mm", -far, far, {}, "from one to the next"},
                                    {"by_y", FieldKind::Length, "0 mm", -far, far, {}, "from one to the next"},
                                    {"by_z", FieldKind::Length, "0 mm", -far, far, {}, "from one to the next"},
                                    {"rows", FieldKind::Count, "1", 1, 100000, {}, "of such rows"},
                                    {"row_x", FieldKind::Length, "0 mm", -far, far, {}, "from row to row"},
                                    {"row_y", FieldKind::Length, "10 mm", -far, far, {}, "from row to row"},
                                    {"row_z", FieldKind::Length, "0 mm", -far, far, {}, "from row to row"}});
    kind.sentence = std::string(repeated_words) +
                    " {count} times by {by_x}, {by_y}, {by_z}[, in {rows} rows by {row_x}, {row_y}, {row_z}]"
                    "[, without {drop}][, {does}][, many: {many}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        Vec3 by(context.number("by_x"), context.number("by_y"), context.number("by_z"));
        Vec3 row(context.number("row_x"), context.number("row_y"), context.number("row_z"));
        double count = context.number("count"), rows = context.number("rows");
        if ((count > 1 && by.norm() < tolerance::same_mm) || (rows > 1 && row.norm() < tolerance::same_mm))
            return problem(ProblemCode::Range, "All copies would lie in one place.", "Give them a distance.");
        if (count * rows > 100000)
            return problem(ProblemCode::Range, "More than 100,000 copies cannot be made.", "Use fewer.");
        std::vector<Affine> places;
        for (int r = 0; r < int(rows); ++r)
            for (int k = 0; k < int(count); ++k)
                if (r + k > 0) places.push_back(Affine(Eigen::Translation3d(k * by + r * row)));
        return Repeater(before, context, std::move(places)).run();
    };
    return kind;
}

StepKind repeat_round_kind() {
    StepKind kind;
    kind.id = "repeat_round";
    kind.title = "Repeat round";
    kind.purpose = "Copies what steps made, or bodies, round an axis.";
    const double far = tolerance::largest_mm;
    kind.fields = repeating_fields(
        {{"count", FieldKind::Count, "6", 1, 100000, {}, "with the original"},
         {"angle", FieldKind::Angle, "360 deg", -3600, 3600, {}, "over which they are spread; 360: all the way round"},
         {"axis", FieldKind::Choice, "z", 0, 0, {"x", "y", "z"}, "axis they go round"},
         {"through_x", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
         {"through_y", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
         {"through_z", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
         {"attitude",
          FieldKind::Choice,
          "turning",
          0,
          0,
          {"turning", "kept"},
          "they turn with the axis, or stay upright"}});
    kind.sentence = std::string(repeated_words) +
                    " {count} times over {angle} round {axis}[ through {through_x}, {through_y}, {through_z}]"
                    "[, {attitude}][, without {drop}][, {does}][, many: {many}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        Vec3 axis = axis_named(context.word("axis"));
        Vec3 through(context.number("through_x"), context.number("through_y"), context.number("through_z"));
        double angle = context.number("angle"), count = context.number("count");
        bool round = std::fabs(std::fabs(angle) - 360) < 1e-9;
        double step = count < 2 ? 0 : angle / (round ? count : count - 1);
        if (count > 1 && std::fabs(std::remainder(step, 360)) < 1e-6)
            return problem(ProblemCode::Range, "All copies would lie in one place.", "Give them an angle.");
        Vec3 centre = Vec3::Zero(); // of what is repeated: kept upright, it is this point that goes round
        if (!before.empty()) centre = before.front().body.box().center();
        if (context.word("attitude") == "kept" && context.tools_of)
            if (auto names = listed(context.word("steps"), ','); !names.empty())
                if (auto id = context.step_named ? context.step_named(names[0]) : std::nullopt)
                    if (auto tools = context.tools_of(*id); !tools.empty())
                        if (auto body = tools[0].body()) centre = body->box().center();
        std::vector<Affine> places;
        for (int k = 1; k < int(count); ++k) {
            Affine turn = turn_about(axis, through, step * k);
            if (context.word("attitude") == "kept") turn = Affine(Eigen::Translation3d(turn * centre - centre));
            places.push_back(turn);
        }
        return Repeater(before, context, std::move(places)).run();
    };
    return kind;
}

StepKind repeat_path_kind() {
    StepKind kind;
    kind.id = "repeat_path";
    kind.title = "Repeat along a path";
    kind.purpose = "Copies what steps made, or bodies, along a drawn line; the first stands at its beginning.";
    kind.fields = repeating_fields(
        {{"path", FieldKind::Outline, "", 0, 0, {}, "the outline they go along"},
         {"count", FieldKind::Count, "6", 1, 100000, {}, "with the original"},
         {"spacing", FieldKind::Length, "0 mm", 0, 1e5, {}, "along the path; 0: evenly over all of it"},
         {"attitude", FieldKind::Choice, "turning", 0, 0, {"turning", "kept"}, "they turn with the path, or not"}});
    kind.sentence = std::string(repeated_words) + " {count} times along {path}[, {spacing} apart][, {attitude}]"
                                                  "[, without {drop}][, {does}][, many: {many}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto outline = find_outline(context, context.word("path"));
        if (!outline) return tl::make_unexpected(outline.error());
        std::vector<SourcedCurve> drawn = (*outline)->shape->curves;
        drawn.insert(drawn.end(), (*outline)->shape->construction.begin(), (*outline)->shape->construction.end());
        auto chains = chains_of(drawn);
        if (chains.empty()) return problem(ProblemCode::Missing, "The path has no line.", "Draw one.");
        std::vector<Vec2> line;
        for (const Vec2& p : flatten(chains[0].plain(), 1e-4))
            if (line.empty() || (p - line.back()).norm() > 1e-9) line.push_back(p);
        if (chains[0].closed && (line.front() - line.back()).norm() > 1e-9) line.push_back(line.front());
        std::vector<double> along{0};
        for (size_t i = 1; i < line.size(); ++i) along.push_back(along.back() + (line[i] - line[i - 1]).norm());
        double count = context.number("count"), spacing = context.number("spacing"), length = along.back();
        if (spacing == 0 && count > 1) spacing = length / (chains[0].closed ? count : count - 1);
        if (spacing * (count - 1) > length + 1e-6)
            return problem(ProblemCode::Range, "The path is too short for that many at this distance.",
                           "Use fewer, or leave the distance at 0 to spread them evenly.");
        auto at = [&](double s) {
            size_t i = size_t(std::upper_bound(along.begin(), along.end(), s) - along.begin());
            i = std::clamp<size_t>(i, 1, line.size() - 1);
            double t = (s - along[i - 1]) / (along[i] - along[i - 1]);
            Vec2 p = line[i - 1] + t * (line[i] - line[i - 1]);
            Vec2 d = line[i] - line[i - 1];
            return std::pair(p, std::atan2(d.y(), d.x()));
        };
        const Transform& plane = (*outline)->plane;
        auto [start, heading] = at(0);
        std::vector<Affine> places;
        for (int k = 1; k < int(count); ++k) {
            auto [p, angle] = at(std::min(length, spacing * k));
            Affine local = Affine::Identity();
            local.translate(Vec3(p.x(), p.y(), 0));
            if (context.word("attitude") == "turning") local.rotate(Eigen::AngleAxisd(angle - heading, Vec3::UnitZ()));
            local.translate(Vec3(-start.x(), -start.y(), 0));
            places.push_back(Affine(plane) * local * Affine(plane.inverse()));
        }
        return Repeater(before, context, std::move(places)).run();
    };
    return kind;
}

StepKind mirror_kind() {
    StepKind kind;
    kind.id = "mirror";
    kind.title = "Mirror";
    kind.purpose = "Mirrors what steps made, or bodies, in a plane or face.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"steps", FieldKind::Steps, "", 0, 0, {}, "steps whose solids are mirrored; empty: whole bodies"},
                   {"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies that are mirrored when no steps are named"},
                   {"in", FieldKind::Plane, "yz", 0, 0, {}, "the mirror"},
                   {"distance", FieldKind::Length, "0 mm", -far, far, {}, "of the mirror from that plane or face"},
                   {"does",
                    FieldKind::Choice,
                    "join",
                    0,
                    0,
                    {"join", "new", "instead"},
                    "joined to the original, a body of its own, or in its place"}};
    kind.sentence = "Mirror {steps}[ of {what}] in {in}[, {distance} from it], {does}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto plane = find_plane(before, context, context.word("in"));
        if (!plane) return tl::make_unexpected(plane.error());
        Transform mirror = *plane;
        mirror.translate(Vec3(0, 0, context.number("distance")));
        Affine flip = Affine::Identity();
        flip.linear()(2, 2) = -1;
        Affine place = Affine(mirror) * flip * Affine(mirror.inverse());
        StepContext own = context;
        own.words["drop"] = "";
        own.words["many"] = "no";
        Expected<StepResult> result = StepResult{before, {}, {}};
        if (context.word("does") == "instead" && context.word("steps").empty()) {
            auto chosen = pick_bodies(before, context.word("what"), "mirror");
            if (!chosen) return tl::make_unexpected(chosen.error());
            for (size_t i : *chosen) {
                auto body = mapped(before[i].body, place);
                if (!body) return tl::make_unexpected(body.error());
                result->bodies[i].body = *body;
                auto halos = mapped_halos(before[i].halos, place);
                if (!halos) return tl::make_unexpected(halos.error());
                result->bodies[i].halos = *halos;
            }
        } else {
            result = Repeater(before, own, {place}).run();
        }
        if (result) result->place = StepPlace{*plane, {}, {}};
        return result;
    };
    return kind;
}

} // namespace lp
