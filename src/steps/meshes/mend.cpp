#include "steps/meshes/mend.h"
#include "base/quantity.h"
#include "mesh/mend.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

/// "17 open edges, 5 holes, 273 flipped facets" or "closed, 3.95 cm³".
std::string state_words(const Soundness& s) {
    std::string words;
    auto add = [&](size_t n, const char* what) {
        if (n) words += (words.empty() ? "" : ", ") + std::to_string(n) + " " + what;
    };
    add(s.open_edges.count, "open edges");
    add(s.holes.count, "holes");
    add(s.flipped.count, "flipped facets");
    add(s.duplicate.count, "doubled facets");
    add(s.degenerate.count, "facets without area");
    add(s.nonmanifold_edges.count, "crowded edges");
    add(s.overlapping_shells ? s.overlapping_shells->count : 0, "shells through others");
    add(s.inner_shells.count, "hidden shells");
    if (!s.overlapping_shells || !*s.overlapping_shells)
        add(s.self_intersecting ? s.self_intersecting->count : 0, "facets through others");
    if (s.inside_out) words += words.empty() ? "inside out" : ", inside out";
    if (words.empty()) words = "sound";
    if (s.closed) words += ", " + format_number(mass_properties(s.kept).volume_mm3 / 1000, 2) + " cm³";
    return words + ", " + std::to_string(s.triangles) + " facets";
}

} // namespace

FieldCure mend_before() {
    return {"what", "all", "Mend it before this step", "mend", true};
}

/// In the order of MendOnly.
static const std::vector<std::string>& only_words() {
    static const std::vector<std::string> words{"all",     "dropping", "welding", "parting",
                                                "turning", "filling",  "uniting"};
    return words;
}

StepKind mend_kind() {
    StepKind kind;
    kind.id = "mend";
    kind.title = "Mend";
    kind.purpose = "Welds, turns and closes a mesh that came damaged, and unites what passes through itself.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"tolerance", FieldKind::Length, "0.01 mm", 0, 10, {}, "open edges nearer than this are welded"},
                   {"debris", FieldKind::Length, "0.3 mm", 0, 100, {}, "pieces no larger than this go; 0: none"},
                   {"only", FieldKind::Choice, "all", 0, 0, only_words(), "one of the cures alone"}};
    kind.sentence = "Mend {what}[ only by {only}], welding within {tolerance}[, without pieces below {debris}]";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"repair", "heal", "fix", "union", "overlap", "hidden", "debris", "shells"};
    kind.version = 2;
    kind.reports = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "mend");
        if (!chosen) return pass_on(chosen);
        StepResult result{before, {}, {}};
        const auto& words = only_words();
        const auto only = MendOnly(std::find(words.begin(), words.end(), context.word("only")) - words.begin());
        for (size_t i : *chosen) {
            if (before[i].body.is_exact()) continue;
            auto mended = mend(before[i].body.mesh(),
                               {context.number("tolerance"), context.number("debris"), true, only}, context.task);
            if (!mended) return pass_on(mended);
            if (!mended->cures.empty()) {
                Soundness was = check_soundness(before[i].body.mesh(), {}, context.task),
                          after = check_soundness(mended->mesh, {}, context.task);
                result.note += "Before: " + state_words(was) + ". Then";
                for (size_t k = 0; k < mended->cures.size(); ++k)
                    result.note += (k ? ", " : " ") + mended->cures[k].says;
                result.note += ". After: " + state_words(after) + ".";
            }
            if (mended->holes_left)
                result.note += " " + std::to_string(mended->holes_left) + " holes could not be filled.";
            result.bodies[i].body = Body::from_mesh(std::move(mended->mesh));
        }
        if (result.note.empty()) result.note = "Nothing to mend.";
        return result;
    };
    return kind;
}

} // namespace lp
