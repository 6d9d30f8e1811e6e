// The open project as a document: its history, its file, what was not saved.
#pragma once
#include "app/worker.h"
#include "project/archive.h"
#include "project/edit.h"
#include <QTimer>

namespace lp {

class Document : public QObject {
    Q_OBJECT
  public:
    explicit Document(Worker& worker, QObject* parent = nullptr);

    const ProjectPtr& project() const { return history_.now(); }
    const History& history() const { return history_; }
    QString path() const { return path_; }
    bool changed() const { return changed_; }
    /// Applies an edit; on a problem nothing changes, the problem is returned and (unless `quiet`) said.
    std::optional<Problem> edit(const Edit& edit, bool quiet = false);
    void undo();
    void redo();

    // Files. Each says what happened; on a problem nothing is lost.
    void start_new();
    bool open(const QString& path);
    bool save(const QString& path, const QByteArray& preview = {});
    std::vector<Autosave::Left> left_behind() const { return autosave_.left_behind(); }
    void recover(const Autosave::Left& left);
    void close_in_peace();

    void say(const QString& message, bool wrong = false) { emit said(message, wrong); }

  signals:
    void project_changed(); ///< another snapshot, or its file
    void edited(const lp::Edit& edit);
    void replaced();        ///< another project is open; before project_changed()
    void snapshot_wanted(); ///< it is to be made
    void said(const QString& message, bool wrong);

  private:
    void changed_now();
    void set_history(History history, const QString& path, bool changed);
    void autosave();

    Worker& worker_;
    History history_;
    QString path_;
    bool changed_ = false;
    Autosave autosave_;
    QTimer autosave_timer_;
    std::filesystem::path brought_back_; ///< kept until what it held is written anew
};

} // namespace lp
