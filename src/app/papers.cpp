#include "app/papers.h"
#include "app/panels/paper_preview.h"
#include "handoff/job_sheet.h"
#include "handoff/part_drawing.h"
#include <QDate>
#include <QPointer>

namespace lp {
namespace {

std::optional<Problem> write_into(const std::filesystem::path& file, const std::string& bytes) {
    std::error_code ignored; // the writer says it where there is no folder
    std::filesystem::create_directories(file.parent_path(), ignored);
    return write_file_safely(file, bytes);
}

/// What has become of the paper, in the window's thread; nothing of one that was stopped.
void make_beside(Session& session, const PaperWork& work, std::function<void(Expected<std::string>)> then) {
    session.worker().start(Lane::Asked, work.called, [&session, make = work.make, then](const Task& task) {
        auto bytes = make(task);
        if (!bytes && bytes.error().code == ProblemCode::Cancelled) return;
        session.worker().post([then, bytes = std::move(bytes)] { then(bytes); });
    });
}

} // namespace

Expected<PaperWork> sheet_to_make(const Session& session, Paper paper) {
    const Results& results = session.results();
    if (!results.evaluation_is_current() || !results.analysis_is_current())
        return problem(ProblemCode::Missing, "The parts are still being made and checked.",
                       "Write the sheet in a moment.");
    JobSheetOptions options;
    options.paper = paper;
    options.date = QDate::currentDate().toString(Qt::ISODate).toStdString();
    return PaperWork{"sheet", file_name_of(session.project()->name) + "-sheet.pdf",
                     [evaluation = results.shared_evaluation(), analysis = *results.analysis(),
                      options](const Task& task) -> Expected<std::string> {
                         auto sheet = job_sheet(*evaluation, analysis, options, task);
                         if (!sheet) return pass_on(sheet);
                         return std::move(sheet->pdf);
                     }};
}

Expected<PaperWork> drawing_to_make(const Session& session, Paper paper, const QString& ending) {
    const Results& results = session.results();
    const PartPtr part = session.project()->part(session.workspace().active_part());
    if (!part || part->stand_in)
        return problem(ProblemCode::Missing, "A stand-in is not printed.", "Choose a part that is.");
    if (!results.evaluation_is_current() || !results.analysis_is_current())
        return problem(ProblemCode::Missing, "The part is still being made and checked.", "Draw it in a moment.");
    return PaperWork{"drawing", file_name_of(part->name) + "-drawing." + ending.toStdString(),
                     [evaluation = results.shared_evaluation(), analysis = *results.analysis(), name = part->name,
                      paper, svg = ending == "svg"](const Task& task) -> Expected<std::string> {
                         auto drawn = part_to_draw(*evaluation, analysis, name);
                         if (!drawn) return pass_on(drawn);
                         return (svg ? drawing_svg : drawing_pdf)(*drawn, paper, task);
                     }};
}

void write_paper(Session& session, const Expected<PaperWork>& work, const QString& folder) {
    if (!work) return session.say(QString::fromStdString(work.error().text()), true);
    const auto file = std::filesystem::path(folder.toStdString()) / work->file_name;
    const PaperWork written{work->called, work->file_name,
                            [make = work->make, file](const Task& task) -> Expected<std::string> {
                                auto bytes = make(task);
                                if (!bytes) return bytes;
                                if (auto failed = write_into(file, *bytes)) return pass_on(*failed);
                                return file.string();
                            }};
    make_beside(session, written, [&session, called = work->called](const Expected<std::string>& path) {
        session.say(path ? QString("Wrote the %1: %2.").arg(called, QString::fromStdString(*path))
                         : QString::fromStdString(path.error().text()),
                    !path);
    });
}

void look_at_paper(Session& session, const Expected<PaperWork>& work, const QString& folder, QWidget* parent) {
    if (!work) return session.say(QString::fromStdString(work.error().text()), true);
    make_beside(session, *work,
                [&session, work = *work, folder, over = QPointer<QWidget>(parent)](const Expected<std::string>& pdf) {
                    if (!pdf) return session.say(QString::fromStdString(pdf.error().text()), true);
                    if (!over) return;
                    auto* preview = new PaperPreview(QByteArray::fromStdString(*pdf), work.called, over);
                    preview->setAttribute(Qt::WA_DeleteOnClose);
                    QObject::connect(preview, &PaperPreview::write_wanted, preview,
                                     [&session, work, folder, bytes = *pdf] {
                                         PaperWork ready = work;
                                         ready.make = [bytes](const Task&) -> Expected<std::string> { return bytes; };
                                         write_paper(session, ready, folder);
                                     });
                    // Without a window manager nobody else gives the keys back.
                    QObject::connect(preview, &QDialog::finished, over, [over] { over->activateWindow(); });
                    preview->open();
                });
}

} // namespace lp
