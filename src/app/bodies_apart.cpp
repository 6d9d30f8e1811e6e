#include "app/bodies_apart.h"
#include "app/session.h"
#include "base/text.h"
#include "project/bodies_apart.h"

namespace lp {

void set_bodies_apart(Session& session) {
    const auto& picks = session.workspace().selection();
    const PartId id = picks.empty() ? session.workspace().active_part() : picks[0].part;
    const Evaluation* made = session.results().evaluation_is_current() ? session.results().evaluation() : nullptr;
    const PartPtr part = session.project()->part(id);
    const PartResult* result = made ? made->part(id) : nullptr;
    if (!part || !result) return session.say("Choose a part that is made first.", true);
    std::vector<std::string> names;
    for (const Pick& pick : picks)
        if (pick.part == id && pick.kind != Pick::Kind::Body && pick.body < result->bodies.size())
            if (const std::string called = result->bodies[pick.body].called();
                !std::count(names.begin(), names.end(), called))
                names.push_back(called);
    if (names.empty()) names = lesser_bodies(*result);
    const std::string name = part->name + " " + (names.size() == 1 ? names[0] : "pieces");
    auto edit = bodies_apart(*made, id, names, name, other_colour(*session.project(), *part));
    if (!edit) return session.say(QString::fromStdString(edit.error().text()), true);
    session.workspace().clear_selection();
    if (auto wrong = session.document().edit(std::move(*edit)))
        return session.say(QString::fromStdString(wrong->text()), true);
    session.workspace().set_active_part(session.project()->parts.back()->id);
}

} // namespace lp
