#include "app/session.h"
#include "app/file_filter.h"
#include "app/given_names.h"
#include "app/run_aside.h"
#include "check/unit_guess.h"
#include "project/recipe.h"
#include "steps/meshes/bring_in.h"
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QFileInfo>

namespace lp {

Session::Session(QObject* parent)
    : QObject(parent), document_(worker_), results_(document_, workspace_, worker_),
      taken_apart_(document_, workspace_, results_, worker_) {
    connect(&document_, &Document::replaced, this,
            [this] { workspace_.begin(project()->parts.empty() ? PartId() : project()->parts.front()->id); });
    connect(&document_, &Document::project_changed, this, [this] {
        if (!project()->part(workspace_.active_part()))
            workspace_.set_active_part(project()->parts.empty() ? PartId() : project()->parts.front()->id);
    });
    connect(&document_, &Document::snapshot_wanted, &results_, &Results::make);
}

void Session::stop() {
    worker_.stop();
    say("Stopped. The last good result stays; the next change starts it again.");
}

bool Session::wait_until_done(int ms) {
    QElapsedTimer timer;
    timer.start();
    while (timer.elapsed() < ms) {
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
        const bool shown =
            results_.is_previewing() || (results_.evaluation_is_current() && results_.analysis_is_current());
        if (worker_.idle() && shown) {
            QCoreApplication::processEvents(QEventLoop::AllEvents, 20); // what waits for the end of a turn
            return true;
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(2));
    }
    return false;
}

/// As a part says it; nothing where the file tells none.
static std::optional<std::string> colour_of(const std::vector<FileObject>& objects) {
    const FileObject* largest = nullptr;
    double room = -1;
    for (const FileObject& object : objects) {
        const double its = (object.exact ? object.exact->box() : bounding_box(object.mesh)).volume();
        if (its > room) room = its, largest = &object;
    }
    if (!largest || largest->colour == FileObject().colour) return std::nullopt;
    return QString("#%1").arg(largest->colour, 6, 16, QChar('0')).toStdString();
}

void Session::bring_in(const QStringList& files) {
    for (const QString& file : files) {
        QString type = QFileInfo(file).suffix().toLower();
        if (type == "loosepeg" || type == "json") {
            document_.open(file);
            continue;
        }
        if (is_print_plan(file)) {
            emit plan_wanted(file);
            continue;
        }
        worker_.start(Lane::Asked, "bring in", [this, file](const Task& task) {
            task.tell("Reading " + QFileInfo(file).fileName().toStdString(), 0.1);
            const std::string name = QFileInfo(file).fileName().toStdString();
            auto bytes = read_file(file.toStdString());
            auto read = bytes ? read_objects(name, *bytes) : Expected<ReadObjects>(pass_on(bytes));
            const auto colour = read ? colour_of(read->objects) : std::nullopt;
            auto mesh = read ? one_mesh(std::move(*read)) : Expected<ReadMesh>(pass_on(read));
            if (!mesh)
                return worker_.post([this, file, text = QString::fromStdString(mesh.error().text())] {
                    say(QFileInfo(file).fileName() + ": " + text, true);
                });
            auto kept = std::make_shared<const std::string>(std::move(*bytes));
            const ReadFile in{name, kept, bounding_box(mesh->mesh), mesh->mesh.triangles.size(), colour};
            worker_.post([this, in, notes = mesh->notes] {
                take_in(in);
                for (const std::string& note : notes) say(QString::fromStdString(in.name + ": " + note), true);
            });
        });
    }
}

/// A part of what was read, standing on the ground; or the one in hand, where it is empty yet.
void Session::take_in(const ReadFile& file) {
    const auto& [name, bytes, box, facets, colour] = file;
    const std::string file_name = free_file_name(*project(), name, *bytes);
    const std::string called = free_part_name(
        *project(), QFileInfo(QString::fromStdString(name)).completeBaseName().replace('-', ' ').toStdString());
    const Step step = step_of_kind("bring_in", bring_in_fields(file_name, -box.min().z()));
    const PartPtr in_hand = project()->part(workspace_.active_part());
    const bool is_empty = in_hand && in_hand->steps.empty();
    Edit edit;
    edit.parts = {AddImport{file_name, bytes}};
    if (is_empty) {
        edit.parts.push_back(AddStep{in_hand->id, step, {}});
        if (is_given_name(in_hand->name)) edit.parts.push_back(RenamePart{in_hand->id, called});
        if (colour) edit.parts.push_back(SetColour{in_hand->id, *colour});
    } else {
        Part part;
        part.name = called;
        part.colour = colour.value_or("#a9785a");
        part.steps.push_back(step);
        edit.parts.push_back(AddPart{part});
    }
    edit.sentence = "Brought in " + name;
    if (document_.edit(edit)) return;
    if (!is_empty) workspace_.set_active_part(project()->parts.back()->id);
    QString size =
        QString::fromStdString(format_number(box.sizes().x(), 1) + " x " + format_number(box.sizes().y(), 1) + " x " +
                               format_number(box.sizes().z(), 1) + " mm, " + std::to_string(facets) + " facets");
    const std::string guess = guess_unit(box.sizes());
    if (guess == "inch" || guess == "m")
        say(QString::fromStdString(name) + ": " + size + ". So small a part may have been drawn in " +
                (guess == "m" ? "metres" : "inches") + ": the check offers to scale it.",
            true);
    else
        say("Brought in " + QString::fromStdString(name) + ": " + size + ".");
}

void Session::export_files(const ExportOptions& options) {
    if (!results_.evaluation_is_current())
        return say("The parts are still being made. Export again in a moment.", true);
    worker_.start(Lane::Asked, "export", [this, evaluation = results_.shared_evaluation(), options](const Task& task) {
        auto back = export_project(*evaluation, options, task);
        worker_.post([this, back, folder = QString::fromStdString(options.folder.string())] {
            // What another export read back tells nothing of this one.
            last_export_ = back.value_or(std::vector<ReadBack>());
            if (!back) {
                say(QString::fromStdString(back.error().text()), true);
                return emit exported();
            }
            size_t same = size_t(std::count_if(back->begin(), back->end(), [](const ReadBack& r) { return r.same; }));
            say(same == back->size()
                    ? QString("Wrote and read back %1 objects to %2: all as meant.").arg(back->size()).arg(folder)
                    : QString("Of %1 objects written, %2 read back differently: see the list.")
                          .arg(back->size())
                          .arg(back->size() - same),
                same != back->size());
            emit exported();
        });
    });
}

void Session::export_table(const QString& table, const QString& folder, const std::vector<std::string>& formats) {
    worker_.start(Lane::Asked, "export table", [this, project = project(), table, folder, formats](const Task& task) {
        const auto bytes = read_file(table.toStdString());
        const auto rows = bytes ? read_number_rows(*bytes) : Expected<std::vector<NumberRow>>(pass_on(bytes));
        auto written = rows ? export_rows(*project, *rows, {folder.toStdString(), formats}, task)
                            : Expected<std::vector<WrittenRow>>(pass_on(rows));
        worker_.post([this, written, folder] {
            if (!written) {
                if (written.error().code != ProblemCode::Cancelled)
                    say(QString::fromStdString(written.error().text()), true);
                return;
            }
            const auto failed =
                std::find_if(written->begin(), written->end(), [](const WrittenRow& r) { return !r.says.empty(); });
            if (failed != written->end())
                return say(QString("Not all rows were written. %1: %2")
                               .arg(QString::fromStdString(failed->name), QString::fromStdString(failed->says)),
                           true);
            say(QString("Wrote %1 rows of the table, each to a folder of its own in %2.")
                    .arg(written->size())
                    .arg(folder));
        });
    });
}

void Session::tell_practice(PracticeReport report) {
    last_practice_ = std::move(report);
    emit practised();
}

} // namespace lp
