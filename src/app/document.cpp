#include "app/document.h"
#include "app/run_aside.h"
#include "app/settings.h"
#include <QFileInfo>

namespace lp {

Document::Document(Worker& worker, QObject* parent)
    : QObject(parent), worker_(worker), autosave_(Autosave::state_directory()) {
    autosave_timer_.setSingleShot(true);
    // Tests of sudden ends cannot wait for seconds.
    bool given = false;
    const int ms = qEnvironmentVariableIntValue("LOOSE_PEG_AUTOSAVE_MS", &given);
    auto follow = [this, ms = given && ms > 0 ? ms : 0] {
        autosave_timer_.setInterval(ms ? ms : settings().autosave_s * 1000);
    };
    follow();
    connect(&SettingsFile::only(), &SettingsFile::changed, this, follow);
    connect(&autosave_timer_, &QTimer::timeout, this, &Document::autosave);
}

/// Packing a large project takes time: off the interface thread, from an immutable history.
void Document::autosave() {
    worker_.start(Lane::Save, "autosave",
                  [this, history = history_, path = path_.toStdString(), old = brought_back_](const Task&) {
                      if (auto failed = autosave_.write(history, path)) {
                          worker_.post([this, text = QString::fromStdString(failed->text())] {
                              say("Autosave: " + text, true);
                              if (changed_ && !autosave_timer_.isActive()) autosave_timer_.start();
                          });
                          return;
                      }
                      std::error_code error; // what was brought back is safe in the new file now
                      if (!old.empty() && old != autosave_.file()) std::filesystem::remove(old, error);
                  });
    brought_back_.clear();
}

void Document::changed_now() {
    changed_ = true;
    // From the first edit that is not saved: steady work must not put it off.
    if (!autosave_timer_.isActive()) autosave_timer_.start();
    emit project_changed();
    emit snapshot_wanted();
}

std::optional<Problem> Document::edit(const Edit& edit, bool quiet) {
    auto next = apply_edit(*project(), edit);
    if (!next) {
        if (!quiet) say(QString::fromStdString(next.error().text()), true);
        return next.error();
    }
    history_.push(*next);
    emit edited(edit);
    changed_now();
    return std::nullopt;
}

void Document::undo() {
    if (!history_.can_undo()) return;
    say("Undone: " + QString::fromStdString(history_.undo_sentence()));
    history_.undo();
    changed_now();
}

void Document::redo() {
    if (!history_.can_redo()) return;
    say("Done again: " + QString::fromStdString(history_.redo_sentence()));
    history_.redo();
    changed_now();
}

void Document::set_history(History history, const QString& path, bool changed) {
    history_ = std::move(history);
    path_ = path;
    changed_ = changed;
    autosave_timer_.stop();
    worker_.start(Lane::Save, "discard", [this](const Task&) { autosave_.discard(); });
    emit replaced();
    emit project_changed();
    emit snapshot_wanted();
}

void Document::start_new() {
    set_history(History(), {}, false);
}

bool Document::open(const QString& path) {
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

bool Document::save(const QString& path, const QByteArray& preview) {
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
    worker_.start(Lane::Save, "discard", [this](const Task&) { autosave_.discard(); });
    emit project_changed();
    say("Saved as " + QFileInfo(path).fileName() + ", the history of its numbers with it.");
    return true;
}

void Document::recover(const Autosave::Left& left) {
    auto opened = run_aside([file = left.file] { return open_project(file); });
    if (!opened) return say(QString::fromStdString(opened.error().text()), true);
    set_history(std::move(opened->history), QString::fromStdString(left.project_path), true);
    brought_back_ = left.file;
    say("Brought back what was not saved. Save it to keep it.");
    autosave();
}

void Document::close_in_peace() {
    autosave_timer_.stop();
    worker_.finish_saving();
    autosave_.discard();
}

} // namespace lp
