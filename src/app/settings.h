// What the maker has chosen about the program itself. Kept in the XDG configuration folder; never part of a project.
#pragma once
#include <QObject>

namespace lp {

struct Settings {
    enum class Unit { Millimetre, Inch };
    enum class Look { Paper, NightBench, AsDesktop };
    /// What turns, moves and zooms the view.
    enum class Pointer { Bench, Wheel, Fingers };

    Unit unit = Unit::Millimetre; ///< shown, and meant where none is typed; files stay in millimetres
    Look look = Look::Paper;
    Pointer pointer = Pointer::Bench;
    int size_percent = 100; ///< of text and signs, from the next start on: 80 to 200
    int autosave_s = 4;     ///< from an edit until it is written aside: 2 to 600
    bool operator==(const Settings&) const = default;
};

/// The one set of settings of this process, and its file.
class SettingsFile : public QObject {
    Q_OBJECT
  public:
    static SettingsFile& only();

    const Settings& now() const { return now_; }
    /// Kept and written; false, and said by `problem`, where it could not be written: it holds for this session then.
    bool set(const Settings& settings, QString* problem = nullptr);
    /// Reads the file anew. What is missing, unreadable or out of range is as at the beginning.
    void read();
    static QString path();

  signals:
    void changed(const lp::Settings& before);

  private:
    SettingsFile();
    Settings now_;
};

inline const Settings& settings() {
    return SettingsFile::only().now();
}

} // namespace lp
