#include "app/write_drawing.h"
#include "handoff/part_drawing.h"

namespace lp {

void write_drawing(Session& session, const QString& folder, Paper paper, const QString& ending) {
    const Results& results = session.results();
    const PartPtr part = session.project()->part(session.workspace().active_part());
    if (!part || part->stand_in) return session.say("A stand-in is not printed. Choose a part that is.", true);
    if (!results.evaluation_is_current() || !results.analysis_is_current())
        return session.say("The part is still being made and checked. Draw it in a moment.", true);
    const auto file =
        std::filesystem::path(folder.toStdString()) / (file_name_of(part->name) + "-drawing." + ending.toStdString());
    session.worker().start(
        Lane::Asked, "drawing",
        [&session, evaluation = results.shared_evaluation(), analysis = *results.analysis(), name = part->name, file,
         paper](const Task& task) {
            auto drawn = part_to_draw(*evaluation, analysis, name);
            const auto make = file.extension() == ".svg" ? drawing_svg : drawing_pdf;
            auto bytes = drawn ? make(*drawn, paper, task) : Expected<std::string>(pass_on(drawn));
            std::optional<Problem> failed = bytes ? std::nullopt : std::optional(bytes.error());
            if (!failed) {
                std::error_code ignored; // the writer says it where there is no folder
                std::filesystem::create_directories(file.parent_path(), ignored);
                failed = write_file_safely(file, *bytes);
            }
            if (failed && failed->code == ProblemCode::Cancelled) return;
            const QString says = failed ? QString::fromStdString(failed->text())
                                        : QString("Wrote the drawing: %1.").arg(QString::fromStdString(file.string()));
            session.worker().post([&session, says, wrong = failed.has_value()] { session.say(says, wrong); });
        });
}

} // namespace lp
