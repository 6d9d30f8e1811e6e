#include "app/other_files.h"
#include "app/session.h"
#include "app/units.h"
#include "base/text.h"
#include "project/recipe.h"
#include <QFileInfo>

namespace lp {
namespace {

Expected<NamedFile> read_named(const QString& path) {
    auto bytes = read_file(path.toStdString());
    if (!bytes) return pass_on(bytes);
    return NamedFile{QFileInfo(path).fileName().toStdString(), std::make_shared<const std::string>(std::move(*bytes))};
}

void say_wrong(Session& session, const Problem& why) {
    session.say(QString::fromStdString(why.text()), true);
}

/// "foot 2, 20.3 cm³", or what failed.
QString came_out(const PartResult& part, const std::string& name) {
    for (size_t i = 0; i < part.steps.size(); ++i)
        if (!part.steps[i].ok)
            return QString::fromStdString(name + ": step " + std::to_string(i + 1) + " failed, " + part.steps[i].says);
    return QString::fromStdString(name + ", " + format_number(part.mass.volume_mm3 / 1000, 2) + " cm³");
}

/// Once the new parts are made: each with its volume, failures first.
void tell_when_made(Session& session, const std::vector<std::string>& names, const QStringList& left_out) {
    auto* once = new QObject(&session);
    QObject::connect(&session.results(), &Results::evaluated, once, [&session, once, names, left_out] {
        if (!session.results().evaluation_is_current()) return;
        once->deleteLater();
        QStringList failed = left_out, whole;
        for (const std::string& name : names) {
            const PartPtr part = session.project()->part_named(name);
            const PartResult* made = part ? session.results().evaluation()->part(part->id) : nullptr;
            if (!made) continue;
            const bool ok = std::all_of(made->steps.begin(), made->steps.end(), [](const auto& s) { return s.ok; });
            (ok ? whole : failed) << came_out(*made, name);
        }
        if (whole.isEmpty() && failed == left_out) return; // taken back before they were made
        QString said = QString("%1 of %2 came out: %3.")
                           .arg(whole.size())
                           .arg(names.size() + size_t(left_out.size()))
                           .arg(whole.join("; "));
        if (!failed.isEmpty()) said = failed.join(" ") + " " + said;
        session.say(as_shown(said), !failed.isEmpty());
    });
}

} // namespace

void replace_file(Session& session, const QString& path) {
    session.worker().start(
        Lane::Asked, "replace file",
        [&session, path, project = session.project(), id = session.workspace().active_part()](const Task& task) {
            task.tell("Reading " + QFileInfo(path).fileName().toStdString(), 0.1);
            auto file = read_named(path);
            Expected<Edit> edit = file ? replaced_file(*project, id, *file) : Expected<Edit>(pass_on(file));
            session.worker().post([&session, edit = std::move(edit)]() mutable {
                if (!edit) return say_wrong(session, edit.error());
                const std::string sentence = edit->sentence;
                if (auto wrong = session.document().edit(std::move(*edit))) return say_wrong(session, *wrong);
                session.say(QString::fromStdString(sentence) + ". It stands where the old one stood; every step is "
                                                               "made again.");
            });
        });
}

void same_steps_for_files(Session& session, const QStringList& paths) {
    session.worker().start(
        Lane::Asked, "same steps",
        [&session, paths, project = session.project(), id = session.workspace().active_part()](const Task& task) {
            std::vector<NamedFile> files;
            QStringList left_out;
            for (const QString& path : paths) {
                task.tell("Reading " + QFileInfo(path).fileName().toStdString(),
                          double(files.size()) / double(paths.size()));
                if (task.stopped()) return;
                if (auto file = read_named(path))
                    files.push_back(std::move(*file));
                else
                    left_out << QString::fromStdString(file.error().text());
            }
            auto made = same_steps_for(*project, id, files, task);
            session.worker().post([&session, left_out, made = std::move(made)]() mutable {
                if (!made && made.error().code == ProblemCode::Cancelled) return;
                if (!made) return say_wrong(session, made.error());
                for (const std::string& says : made->left_out) left_out << QString::fromStdString(says);
                if (made->parts.empty())
                    return session.say("None of the files has a body. " + left_out.join(" "), true);
                if (auto wrong = session.document().edit(std::move(made->edit))) return say_wrong(session, *wrong);
                tell_when_made(session, made->parts, left_out);
            });
        });
}

} // namespace lp
