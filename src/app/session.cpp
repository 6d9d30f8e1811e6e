#include "app/session.h"
#include "app/run_aside.h"
#include "exchange/flat_file.h"
#include "exchange/stl.h"
#include "exchange/threemf.h"
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QMetaObject>
#include <utility>

namespace lp {

Session::Session(QObject* parent)
    : QObject(parent), evaluator_(read_mesh_bytes, read_flat_file), autosave_(Autosave::state_directory()) {
    worker_ = std::thread([this] { run_jobs(); });
    autosave_timer_.setSingleShot(true);
    autosave_timer_.setInterval(4000);
    connect(&autosave_timer_, &QTimer::timeout, this, [this] {
        // Packing a large project takes time: off the interface thread, from an immutable history.
        start_job(
            {[this, history = history_, path = path_.toStdString()](const Task&) {
                 if (auto failed = autosave_.write(history, path))
                     post([this, text = QString::fromStdString(failed->text())] { say("Autosave: " + text, true); });
             },
             false});
    });
    connect(this, &Session::selection_changed, this, &Session::measure_selection);
    connect(this, &Session::selection_changed, this, &Session::map_gap);
    connect(this, &Session::analysed, this, &Session::map_gap);
    connect(this, &Session::stretch_changed, this, &Session::map_gap);
}

Session::~Session() {
    {
        std::lock_guard lock(mutex_);
        quit_ = true;
        running_.cancel();
        jobs_.clear();
    }
    wake_.notify_all();
    worker_.join();
}

void Session::post(std::function<void()> call) {
    QMetaObject::invokeMethod(this, std::move(call), Qt::QueuedConnection);
}

void Session::run_jobs() {
    while (true) {
        Job job;
        Task task;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [this] { return quit_ || !jobs_.empty(); });
            if (quit_) return;
            job = std::move(jobs_.front());
            jobs_.pop_front();
            running_ = CancelToken();
            running_replaceable_ = job.replaceable;
            task.cancel = running_;
        }
        QElapsedTimer timer;
        timer.start();
        auto last = std::make_shared<qint64>(-1000);
        task.progress = [this, timer, last](const std::string& doing, double share) {
            // Quick work stays silent; the rest tells at most twelve times a second.
            if (timer.elapsed() < 250 || timer.elapsed() - *last < 80) return;
            *last = timer.elapsed();
            post([this, text = QString::fromStdString(doing), share] {
                if (pending_ > 0) emit busy(text, share);
            });
        };
        job.work(task);
        post([this] {
            if (--pending_ == 0) emit busy({}, 0);
        });
    }
}

void Session::start_job(Job job) {
    {
        std::lock_guard lock(mutex_);
        if (job.replaceable) {
            size_t before = jobs_.size();
            std::erase_if(jobs_, [](const Job& j) { return j.replaceable; });
            pending_ -= int(before - jobs_.size());
            if (running_replaceable_) running_.cancel();
        }
        ++pending_;
        jobs_.push_back(std::move(job));
    }
    wake_.notify_one();
}

void Session::stop() {
    {
        std::lock_guard lock(mutex_);
        running_.cancel();
        pending_ -= int(jobs_.size());
        jobs_.clear();
    }
    emit busy({}, 0);
    say("Stopped. The last good result stays; the next change starts it again.");
}

void Session::make_again() {
    request_evaluation();
}

void Session::request_evaluation() {
    start_job({[this, project = project()](const Task& task) {
                   auto evaluation = evaluator_.evaluate(project, task);
                   if (!evaluation) return;
                   auto shared = std::make_shared<const Evaluation>(std::move(*evaluation));
                   post([this, shared] { take_evaluation(shared); });
                   // The picture comes first: on two cores the drawing and the checks would slow each other down.
                   for (int i = 0; i < 8 && !task.stopped(); ++i)
                       std::this_thread::sleep_for(std::chrono::milliseconds(10));
                   auto analysis = analyser_.analyse(*shared, task);
                   if (!analysis) return;
                   auto result = std::make_shared<const Analysis>(std::move(*analysis));
                   post([this, result, project] {
                       analysis_ = result;
                       analysed_project_ = project;
                       emit analysed();
                   });
               },
               true});
}

void Session::take_evaluation(std::shared_ptr<const Evaluation> evaluation) {
    auto before = std::exchange(evaluation_, std::move(evaluation));
    tell_what_changed(before.get());
    // Faces and edges may be numbered anew: picks into bodies that changed are let go, bodies stay chosen.
    std::erase_if(selection_, [&](const Pick& pick) {
        if (pick.kind == Pick::Kind::Body) return !project()->part(pick.part);
        const Tessellation* t = tessellation_of(pick);
        if (!t) return true;
        return pick.kind == Pick::Kind::Face ? pick.index >= t->faces.size() : pick.index >= t->edges.size();
    });
    emit evaluated();
    emit selection_changed();
}

bool Session::wait_until_done(int ms) {
    QElapsedTimer timer;
    timer.start();
    while (timer.elapsed() < ms) {
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
        if (pending_ == 0 && evaluation_is_current() && analysis_is_current()) return true;
        std::this_thread::sleep_for(std::chrono::milliseconds(2));
    }
    return false;
}

std::optional<Problem> Session::edit(const Edit& edit, bool quiet) {
    auto edited = apply_edit(*project(), edit);
    if (!edited) {
        if (!quiet) say(QString::fromStdString(edited.error().text()), true);
        return edited.error();
    }
    history_.push(*edited);
    changed_ = true;
    for (const SingleEdit& one : edit.parts)
        tell_changed_ = tell_changed_ || std::holds_alternative<SetPrinter>(one) ||
                        std::holds_alternative<SetMaterial>(one) || std::holds_alternative<SetFitGap>(one);
    if (!project()->part(active_part_)) active_part_ = project()->parts.empty() ? 0 : project()->parts.front()->id;
    autosave_timer_.start();
    shown_movement_.reset();
    emit project_changed();
    request_evaluation();
    return std::nullopt;
}

void Session::undo() {
    if (!history_.can_undo()) return;
    say("Undone: " + QString::fromStdString(history_.undo_sentence()));
    history_.undo();
    changed_ = true;
    autosave_timer_.start();
    emit project_changed();
    request_evaluation();
}

void Session::redo() {
    if (!history_.can_redo()) return;
    say("Done again: " + QString::fromStdString(history_.redo_sentence()));
    history_.redo();
    changed_ = true;
    autosave_timer_.start();
    emit project_changed();
    request_evaluation();
}

void Session::set_history(History history, const QString& path, bool changed) {
    history_ = std::move(history);
    path_ = path;
    changed_ = changed;
    selection_.clear();
    cut_height_.reset();
    section_.reset();
    isolated_ = 0;
    wound_back_.clear();
    active_contact_ = active_finding_ = -1;
    active_part_ = project()->parts.empty() ? 0 : project()->parts.front()->id;
    autosave_.discard();
    emit project_changed();
    emit selection_changed();
    emit cut_changed();
    request_evaluation();
}

void Session::start_new() {
    set_history(History(), {}, false);
}

bool Session::open(const QString& path) {
    auto opened = run_aside([file = path.toStdString()] { return open_project(file); });
    if (!opened) {
        say(QFileInfo(path).fileName() + ": " + QString::fromStdString(opened.error().text()), true);
        return false;
    }
    // A bare project.json is a starting point; saving makes a .loosepeg of it.
    set_history(std::move(opened->history), opened->bare ? QString() : path, false);
    for (const std::string& note : opened->notes) say(QString::fromStdString(note), true);
    return true;
}

bool Session::save(const QString& path, const QByteArray& preview) {
    auto failed = run_aside([file = path.toStdString(), history = history_, png = preview.toStdString()] {
        return save_project(file, history, png);
    });
    if (failed) {
        say(QString::fromStdString(failed->text()), true);
        return false;
    }
    path_ = path;
    changed_ = false;
    autosave_timer_.stop();
    autosave_.discard();
    emit project_changed();
    say("Saved as " + QFileInfo(path).fileName() + ", the history of its numbers with it.");
    return true;
}

void Session::recover(const Autosave::Left& left) {
    auto opened = run_aside([file = left.file] { return open_project(file); });
    if (!opened) return say(QString::fromStdString(opened.error().text()), true);
    set_history(std::move(opened->history), QString::fromStdString(left.project_path), true);
    std::error_code error;
    std::filesystem::remove(left.file, error);
    say("Brought back what was not saved. Save it to keep it.");
    autosave_timer_.start();
}

void Session::bring_in(const QStringList& files) {
    for (const QString& file : files) {
        QString type = QFileInfo(file).suffix().toLower();
        if (type == "loosepeg" || type == "json") {
            open(file);
            continue;
        }
        start_job(
            {[this, file](const Task& task) {
                 task.tell("Reading " + QFileInfo(file).fileName().toStdString(), 0.1);
                 auto fail = [&](const Problem& why) {
                     post([this, file, text = QString::fromStdString(why.text())] {
                         say(QFileInfo(file).fileName() + ": " + text, true);
                     });
                 };
                 auto read = read_mesh_file(file.toStdString());
                 if (!read) return fail(read.error());
                 std::shared_ptr<const std::string> bytes;
                 std::string name = QFileInfo(file).fileName().toStdString();
                 if (read->format == "3mf") { // kept as the triangles it holds
                     bytes = std::make_shared<const std::string>(write_stl_binary(read->mesh));
                     name = QFileInfo(file).completeBaseName().toStdString() + ".stl";
                 } else {
                     auto raw = read_file(file.toStdString());
                     if (!raw) return fail(raw.error());
                     bytes = std::make_shared<const std::string>(std::move(*raw));
                 }
                 Box3 box = bounding_box(read->mesh);
                 size_t facets = read->mesh.triangles.size();
                 std::string guess = guess_unit(box.sizes().maxCoeff());
                 post([this, name, bytes, box, facets, guess] {
                     std::string file_name = name;
                     for (int n = 2; project()->imports.count(file_name) && *project()->imports.at(file_name) != *bytes;
                          ++n)
                         file_name = std::to_string(n) + "-" + name;
                     Part part;
                     part.name = free_part_name(
                         *project(),
                         QFileInfo(QString::fromStdString(name)).completeBaseName().replace('-', ' ').toStdString());
                     part.colour = "#a9785a";
                     Step step;
                     step.kind = "bring_in";
                     step.fields["file"] = file_name;
                     step.fields["at_z"] = format_quantity(-box.min().z(), QuantityKind::Length, 4);
                     part.steps.push_back(step);
                     Edit edit;
                     edit.parts = {AddImport{file_name, bytes}, AddPart{part}};
                     edit.sentence = "Brought in " + name;
                     if (this->edit(edit)) return;
                     set_active_part(project()->parts.back()->id);
                     QString size = QString::fromStdString(
                         format_number(box.sizes().x(), 1) + " x " + format_number(box.sizes().y(), 1) + " x " +
                         format_number(box.sizes().z(), 1) + " mm, " + std::to_string(facets) + " facets");
                     if (guess == "inch" || guess == "m")
                         say(QString::fromStdString(name) + ": " + size + ". So small a part may have been drawn in " +
                                 (guess == "m" ? "metres: set its scale to 1000." : "inches: set its scale to 25.4."),
                             true);
                     else
                         say("Brought in " + QString::fromStdString(name) + ": " + size + ".");
                 });
             },
             false});
    }
}

void Session::export_files(const QString& folder, const std::vector<std::string>& formats, double deflection_mm) {
    if (!evaluation_is_current()) return say("The parts are still being made. Export again in a moment.", true);
    start_job(
        {[this, evaluation = evaluation_, folder, formats, deflection_mm](const Task& task) {
             auto back = export_project(*evaluation, {folder.toStdString(), formats, deflection_mm}, task);
             post([this, back, folder] {
                 if (!back) return say(QString::fromStdString(back.error().text()), true);
                 last_export_ = *back;
                 size_t same =
                     size_t(std::count_if(back->begin(), back->end(), [](const ReadBack& r) { return r.same; }));
                 say(same == back->size()
                         ? QString("Wrote and read back %1 objects to %2: all as meant.").arg(back->size()).arg(folder)
                         : QString("Of %1 objects written, %2 read back differently: see the list.")
                               .arg(back->size())
                               .arg(back->size() - same),
                     same != back->size());
                 emit exported();
             });
         },
         false});
}

void Session::set_active_part(uint64_t part) {
    if (part == active_part_) return;
    active_part_ = part;
    cut_height_.reset();
    active_finding_ = -1;
    emit selection_changed();
    emit cut_changed();
}

void Session::select(const Pick& pick, bool add) {
    if (!pick) {
        if (!add) clear_selection();
        return;
    }
    if (!add) selection_.clear();
    auto there = std::find_if(selection_.begin(), selection_.end(), [&](const Pick& p) { return p.same(pick); });
    if (there != selection_.end() && add)
        selection_.erase(there);
    else
        selection_.push_back(pick);
    active_contact_ = -1;
    if (pick.part != active_part_) {
        active_part_ = pick.part;
        cut_height_.reset();
        active_finding_ = -1;
        emit cut_changed();
    }
    emit selection_changed();
}

void Session::select_all(const std::vector<Pick>& picks) {
    selection_ = picks;
    active_contact_ = -1;
    if (!picks.empty()) active_part_ = picks.back().part;
    emit selection_changed();
}

void Session::clear_selection() {
    selection_.clear();
    active_contact_ = -1;
    emit selection_changed();
}

void Session::set_stretch(Stretch stretch) {
    if (stretch == stretch_) return;
    stretch_ = stretch;
    emit stretch_changed();
}

void Session::set_active_contact(int index) {
    active_contact_ = index;
    emit selection_changed();
}

void Session::set_active_finding(int index) {
    active_finding_ = index;
    emit selection_changed();
}

void Session::set_cut_height(std::optional<double> height) {
    cut_height_ = height;
    emit cut_changed();
}

void Session::set_section(const std::optional<Eigen::Vector4d>& plane) {
    section_for_map_ = false;
    section_ = plane;
    emit cut_changed();
}

void Session::isolate(uint64_t part) {
    isolated_ = part;
    emit cut_changed();
}

uint64_t Session::wound_back(uint64_t part) const {
    auto found = wound_back_.find(part);
    return found == wound_back_.end() || !project()->step(part, found->second) ? 0 : found->second;
}

void Session::wind_back(uint64_t part, uint64_t step) {
    if (step)
        wound_back_[part] = step;
    else
        wound_back_.erase(part);
    selection_.clear();
    emit selection_changed();
    // Triangles of what was only passed through are made now, off the interface thread.
    start_job({[this, evaluation = evaluation_, part, step](const Task&) {
                   const PartResult* result = evaluation ? evaluation->part(part) : nullptr;
                   if (result && result->after.count(step))
                       for (const StepBody& body : result->after.at(step)) body.body.shared_tessellation();
                   post([this] {
                       emit project_changed();
                       emit cut_changed();
                   });
               },
               false});
}

const std::vector<StepBody>* Session::bodies_of(uint64_t part) const {
    const PartResult* result = evaluation_ ? evaluation_->part(part) : nullptr;
    if (!result) return nullptr;
    if (uint64_t step = wound_back(part))
        if (auto after = result->after.find(step); after != result->after.end()) return &after->second;
    return &result->bodies;
}

const Body* Session::body_of(const Pick& pick) const {
    const auto* bodies = bodies_of(pick.part);
    return bodies && pick.body < bodies->size() ? &(*bodies)[pick.body].body : nullptr;
}

const Tessellation* Session::tessellation_of(const Pick& pick) const {
    const Body* body = body_of(pick);
    return body ? &body->tessellation() : nullptr;
}

const FaceInfo* Session::face_of(const Pick& pick) const {
    const Tessellation* t = pick.kind == Pick::Kind::Face ? tessellation_of(pick) : nullptr;
    return t && pick.index < t->faces.size() ? &t->faces[pick.index] : nullptr;
}

const EdgeInfo* Session::edge_of(const Pick& pick) const {
    const Tessellation* t = pick.kind == Pick::Kind::Edge ? tessellation_of(pick) : nullptr;
    return t && pick.index < t->edges.size() ? &t->edges[pick.index] : nullptr;
}

Transform Session::place_of(uint64_t part) const {
    const PartResult* result = evaluation_ ? evaluation_->part(part) : nullptr;
    return result ? result->place : Transform::Identity();
}

MeasuredThing Session::thing_of(const Pick& pick) const {
    MeasuredThing thing{pick.part, {}};
    const Body* body = body_of(pick);
    if (body && pick.kind == Pick::Kind::Face)
        thing.reference = reference_text(make_reference(*body, pick.index, pick.point));
    if (body && pick.kind == Pick::Kind::Edge && body->is_exact())
        thing.reference = reference_text(make_edge_reference(*body, pick.index, pick.point));
    return thing;
}

void Session::measure_selection() {
    uint64_t question = ++measure_asked_;
    selection_measure_.reset();
    auto picks = selection_;
    bool wall = picks.size() == 1 && picks[0].kind == Pick::Kind::Face;
    if (!wall && picks.size() != 2) return;
    std::vector<Measurable> things;
    for (const Pick& pick : picks) {
        Measurable thing;
        const Body* body = body_of(pick);
        const Tessellation* t = tessellation_of(pick);
        if (!body || !t) return;
        thing.body = *body;
        thing.place = place_of(pick.part);
        thing.index = pick.index;
        thing.kind = pick.kind == Pick::Kind::Face   ? Measurable::Kind::Face
                     : pick.kind == Pick::Kind::Edge ? Measurable::Kind::Edge
                                                     : Measurable::Kind::Whole;
        if (thing.kind == Measurable::Kind::Face && pick.index >= t->faces.size()) return;
        if (thing.kind == Measurable::Kind::Edge && pick.index >= t->edges.size()) return;
        if (thing.kind == Measurable::Kind::Whole)
            if (const PartResult* part = evaluation_->part(pick.part); part && part->bodies.size() > 1 && part->mesh)
                thing.body = Body::from_mesh(*part->mesh);
        things.push_back(std::move(thing));
    }
    start_job({[this, question, things, wall, point = picks[0].point](const Task&) {
                   auto found = wall ? thickness_at(things[0].body, things[0].index, point)
                                     : std::optional(measure_between(things[0], things[1]));
                   post([this, question, found] {
                       if (question != measure_asked_) return;
                       selection_measure_ = found;
                       emit measured();
                   });
               },
               false});
}

void Session::compare_variants(uint64_t part) {
    start_job({[this, part, project = project()](const Task& task) {
                   std::vector<VariantFigures> all;
                   PartPtr its = project->part(part);
                   if (!its) return;
                   std::vector<Variant> variants{{}};
                   variants.insert(variants.end(), its->variants.begin(), its->variants.end());
                   for (size_t i = 0; i < variants.size(); ++i) {
                       task.tell("Comparing variants of " + its->name, double(i) / double(variants.size()));
                       auto with =
                           std::make_shared<const Project>(i ? with_variant(*project, part, variants[i]) : *project);
                       auto made = evaluator_.evaluate(with, task);
                       if (!made) return; // stopped
                       all.push_back({variants[i].name, figures_of(*made, part, task)});
                   }
                   post([this, part, all] { emit variants_compared(part, all); });
               },
               false});
}

Transform Session::pose_of(uint64_t part) const {
    if (!evaluation_) return Transform::Identity();
    PartPtr its = project()->part(part);
    const PartResult* result = evaluation_->part(part);
    if (!its || !result) return Transform::Identity();
    return pose_of_part(*its, *result, evaluation_->values);
}

} // namespace lp
