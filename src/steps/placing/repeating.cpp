#include "steps/placing/repeating.h"
#include "base/text.h"
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
                        FieldCure{"many", "yes", "Make them all"}};
            return pass_on(ask);
        }
        if (auto wrong = check_size()) return pass_on(*wrong);
        auto drop = dropped(c_.word("drop"), places_.size() + 1);
        if (!drop) return pass_on(drop);
        drop_ = *drop;
        return listed(c_.word("steps"), ',').empty() ? bodies() : steps();
    }

  private:
    /// What the copies would weigh, before any is made: an exact face takes about 4 kB.
    std::optional<Problem> check_size() const {
        constexpr double most_faces = 100'000, most_facets = 20'000'000;
        double faces = 0, facets = 0;
        for (const StepBody& body : before_)
            (body.body.is_exact() ? faces : facets) += body.body.is_exact()
                                                           ? double(body.body.tessellation().faces.size())
                                                           : double(body.body.mesh().triangles.size());
        const double times = double(places_.size());
        if (faces * times <= most_faces && facets * times <= most_facets) return std::nullopt;
        return Problem{ProblemCode::Range,
                       std::to_string(places_.size() + 1) + " copies are more than fit into memory here.",
                       "Repeat fewer, or export one and let the slicer lay out the copies."};
    }

    Expected<std::vector<Body>> copies(const Body& body, uint64_t salt) {
        std::vector<Body> all;
        for (size_t k = 0; k < places_.size(); ++k) {
            if (c_.cancelled()) return cancelled();
            if (drop_[k + 2]) continue;
            c_.task.tell("Repeating", double(k) / double(places_.size()));
            auto copy = mapped(body, places_[k]);
            if (!copy) return pass_on(copy);
            all.push_back(renamed_copy(*copy, c_.step_id, (salt << 20) + k + 1));
        }
        return all;
    }

    /// What copies of a body carry: no bodies themselves.
    Expected<std::vector<StepBody>> carried_by_copies(const StepBody& body) {
        std::vector<StepBody> all;
        for (size_t k = 0; k < places_.size(); ++k) {
            if (drop_[k + 2]) continue;
            auto halos = mapped_halos(body.halos, places_[k]);
            if (!halos) return pass_on(halos);
            auto solids = mapped_solids(body.solids, places_[k]);
            if (!solids) return pass_on(solids);
            all.push_back({{}, {}, {}, std::move(*halos), std::move(*solids), mapped_bends(body.bends, places_[k])});
        }
        return all;
    }

    Expected<StepResult> bodies() {
        auto chosen = pick_bodies(before_, c_.word("what"), "repeat");
        if (!chosen) return pass_on(chosen);
        StepResult result{before_, {}, {}};
        for (size_t i : *chosen) {
            auto made = copies(before_[i].body, 0);
            if (!made) return pass_on(made);
            auto carried = carried_by_copies(before_[i]);
            if (!carried) return pass_on(carried);
            if (c_.word("does") == "new") {
                for (size_t k = 0; k < made->size(); ++k)
                    result.bodies.push_back(
                        {c_.step_id,
                         before_[i].name.empty() ? std::string() : before_[i].name + " " + std::to_string(k + 2),
                         (*made)[k], (*carried)[k].halos, (*carried)[k].solids, (*carried)[k].bends});
                continue;
            }
            StepBody& whole = result.bodies[i];
            for (const StepBody& more : *carried) {
                whole.halos.insert(whole.halos.end(), more.halos.begin(), more.halos.end());
                whole.solids.insert(whole.solids.end(), more.solids.begin(), more.solids.end());
                whole.bends.insert(whole.bends.end(), more.bends.begin(), more.bends.end());
            }
            int pieces = before_[i].body.pieces();
            auto joined = combine(Operation::Join, before_[i].body, *made, c_.task);
            if (!joined) return pass_on(joined);
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
                if (!body) return pass_on(body);
                auto made = copies(*body, ++salt);
                if (!made) return pass_on(made);
                if (made->empty()) continue;
                if (tool.operation == Operation::Common)
                    return problem(ProblemCode::Geometry,
                                   "Step \"" + name + "\" keeps what is common: it cannot repeat.",
                                   "Repeat steps that join or cut.");
                Operation operation = c_.word("does") == "cut" ? Operation::Cut : tool.operation;
                auto combined = combine(operation, target, *made, c_.task);
                if (!combined) return pass_on(combined);
                if (!combined->note.empty()) result.note = combined->note;
                target = combined->body;
                result.tools.push_back(
                    {operation, [made = *made]() -> Expected<Body> {
                         if (made.size() == 1) return made.front();
                         auto all = combine(Operation::Join, made.front(), {made.begin() + 1, made.end()});
                         if (!all) return pass_on(all);
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

} // namespace

Expected<StepResult> repeat_at(const std::vector<StepBody>& before, const StepContext& context,
                               std::vector<Affine> places) {
    return Repeater(before, context, std::move(places)).run();
}

std::vector<StepField> repeating_fields(std::vector<StepField> own) {
    std::vector<StepField> all{
        StepField{
            "steps", FieldKind::Steps, "", 0, 0, {}, "steps whose solids are repeated, by commas; empty: whole bodies"}
            .optional("whole bodies"),
        {"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies that are repeated when no steps are named"}};
    for (StepField& f : own) all.push_back(std::move(f));
    all.push_back(
        StepField{"drop", FieldKind::Text, "", 0, 0, {}, "copies left out, by number; 1 is the original"}.optional());
    all.push_back({"does", FieldKind::Choice, "join", 0, 0, {"join", "new"}, "copies of bodies: joined, or their own"});
    all.push_back({"many", FieldKind::Choice, "no", 0, 0, {"no", "yes"}, "more than 1000 copies are meant"});
    return all;
}

} // namespace lp
