// The open project and everything known about it. Widgets read from here and send edits; work goes on in the background
// and its results arrive as signals on the interface thread.
#pragma once
#include "app/view/scene.h"
#include "exchange/export_project.h"
#include "project/analysis.h"
#include "project/archive.h"
#include "project/gap_map.h"
#include "project/movement_check.h"
#include <QObject>
#include <QString>
#include <QTimer>
#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>

namespace lp {

enum class Stretch { Shape, Fit, Check, Bed, Export };

class Session : public QObject {
    Q_OBJECT
  public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    // The document.
    const ProjectPtr& project() const { return history_.now(); }
    const History& history() const { return history_; }
    QString path() const { return path_; }
    bool changed() const { return changed_; }
    /// Applies an edit; on a problem nothing changes, the problem is returned and (unless `quiet`) shown.
    std::optional<Problem> edit(const Edit& edit, bool quiet = false);
    void undo();
    void redo();

    // Files. Each says what happened; on a problem nothing is lost.
    void start_new();
    bool open(const QString& path);
    bool save(const QString& path, const QByteArray& preview = {});
    void bring_in(const QStringList& files); ///< reads in the background; meshes become parts, a project is opened
    void export_files(const QString& folder, const std::vector<std::string>& formats, double deflection_mm);
    const std::vector<ReadBack>& last_export() const { return last_export_; }
    std::vector<Autosave::Left> left_behind() const { return autosave_.left_behind(); }
    void recover(const Autosave::Left& left);
    void close_in_peace() { autosave_.discard(); }

    // Results, of the newest snapshot they were finished for.
    const Evaluation* evaluation() const { return evaluation_.get(); }
    const Analysis* analysis() const { return analysis_.get(); }
    bool evaluation_is_current() const { return evaluation_ && evaluation_->project == project(); }
    bool analysis_is_current() const { return analysed_project_ == project(); }
    void stop();
    void make_again(); ///< after a crash of the geometry kernel: what failed is tried once more
    /// Waits until everything known is of the newest snapshot; for tests and pictures. False after `ms`.
    bool wait_until_done(int ms = 30000);

    // Selection and place of work.
    uint64_t active_part() const { return active_part_; }
    void set_active_part(uint64_t part);
    const std::vector<Pick>& selection() const { return selection_; }
    void select(const Pick& pick, bool add);
    void select_all(const std::vector<Pick>& picks); ///< instead of what is chosen
    void clear_selection();
    Stretch stretch() const { return stretch_; }
    void set_stretch(Stretch stretch);
    int active_contact() const { return active_contact_; }
    void set_active_contact(int index);
    int active_finding() const { return active_finding_; }
    void set_active_finding(int index);
    std::optional<double> cut_height() const {
        return cut_height_;
    } ///< mm above the bed, in the active part's print pose
    void set_cut_height(std::optional<double> height);
    /// Section of the view: what has n.p + d >= 0 stays. Apart from the cut of the layer strip.
    const std::optional<Eigen::Vector4d>& section() const { return section_; }
    void set_section(const std::optional<Eigen::Vector4d>& plane);
    uint64_t isolated() const { return isolated_; } ///< the one part that is shown; 0 for all that are visible
    void isolate(uint64_t part);
    /// The sheet of a part wound back: it is shown as it was after that step, and new steps go there. 0: all of it.
    uint64_t wound_back(uint64_t part) const;
    void wind_back(uint64_t part, uint64_t step);
    /// Bodies of a part as they are shown.
    const std::vector<StepBody>* bodies_of(uint64_t part) const;
    /// Asks for the drawing of an outline step to be opened in the view.
    void draw_outline(uint64_t part, uint64_t step) { emit outline_wanted(part, step); }
    /// Opens the drawing so that regions can be clicked for a step grown from it.
    void choose_regions(uint64_t part, uint64_t outline, uint64_t step) { emit regions_wanted(part, outline, step); }

    void say(const QString& message, bool wrong = false) { emit said(message, wrong); }

    // Look-ups widgets need.
    const Tessellation* tessellation_of(const Pick& pick) const;
    const Body* body_of(const Pick& pick) const;
    const FaceInfo* face_of(const Pick& pick) const;
    const EdgeInfo* edge_of(const Pick& pick) const;
    Transform pose_of(uint64_t part) const;
    Transform place_of(uint64_t part) const; ///< in the assembly
    /// A picked thing as a measurement keeps it.
    MeasuredThing thing_of(const Pick& pick) const;
    /// What is measured of the selection: between two things, or the wall at a face. Measured beside this thread;
    /// measured() is told when it is done.
    const std::optional<Measured>& selection_measure() const { return selection_measure_; }
    /// Works out the figures of a part's numbers as they are (the first) and of each of its variants.
    void compare_variants(uint64_t part);
    /// Leads a kept movement along its path in the background; movement_checked() is told.
    void check_movement(uint64_t movement);
    /// What came of it for the newest snapshot it was run on; null before. Stale when the project has changed since.
    const MovementOutcome* movement_outcome(uint64_t movement) const;
    bool movement_is_current(uint64_t movement) const;
    /// Shows the moved body where it is at a position; nothing shows it as drawn.
    void show_movement(uint64_t movement, std::optional<double> position);
    /// Where a body is shown by the movement; nothing for where it stands.
    std::optional<Transform> shown_at(uint64_t part, size_t body) const;
    /// The gap of the active contact, coloured on its surface.
    bool gap_map_wanted() const { return gap_map_wanted_; }
    void want_gap_map(bool wanted);
    const std::vector<GapMap>& gap_map() const { return gap_map_; }
    /// What the next gauge is made like.
    const GaugeLadder& next_gauge() const { return next_gauge_; }
    void set_next_gauge(const GaugeLadder& ladder) {
        next_gauge_ = ladder;
        emit gauge_changed();
    }
    struct VariantFigures {
        std::string name; ///< empty: as it is now
        PartFigures figures;
    };

  signals:
    void project_changed();
    void evaluated();
    void analysed();
    void selection_changed();
    void stretch_changed();
    void cut_changed();
    void busy(const QString& doing, double share); ///< empty when idle
    void said(const QString& message, bool wrong);
    void exported();
    void numbers_wanted();  ///< the table of named numbers
    void variants_wanted(); ///< the table of the active part's variants
    void measured();
    void movement_checked(uint64_t movement);
    /// Where a moved body is shown; nothing for where it is drawn.
    void movement_shown(uint64_t part, std::optional<size_t> body, const std::optional<lp::Transform>& by);
    void gap_map_changed();
    void gauge_changed();
    void variants_compared(uint64_t part, const std::vector<lp::Session::VariantFigures>& figures);
    void outline_wanted(uint64_t part, uint64_t step);
    void regions_wanted(uint64_t part, uint64_t outline, uint64_t step);

  private:
    struct Job {
        std::function<void(const Task&)> work;
        bool replaceable = false; ///< a newer one of its kind takes its place
    };
    void run_jobs();
    void start_job(Job job);
    void request_evaluation();
    void set_history(History history, const QString& path, bool changed);
    void post(std::function<void()> on_interface_thread);
    void measure_selection();
    void map_gap();
    void look_into_joint();
    void tell_what_changed(const Evaluation* before);
    void take_evaluation(std::shared_ptr<const Evaluation> evaluation);

    History history_;
    QString path_;
    bool changed_ = false;
    Evaluator evaluator_;
    Analyser analyser_;
    Autosave autosave_;
    QTimer autosave_timer_;
    std::shared_ptr<const Evaluation> evaluation_;
    std::shared_ptr<const Analysis> analysis_;
    ProjectPtr analysed_project_;
    std::vector<ReadBack> last_export_;

    uint64_t active_part_ = 0;
    std::vector<Pick> selection_;
    std::optional<Measured> selection_measure_;
    uint64_t measure_asked_ = 0; ///< number of the newest question
    struct CheckedMovement {
        ProjectPtr project;
        std::shared_ptr<const MovementOutcome> outcome;
    };
    std::map<uint64_t, CheckedMovement> movements_;
    struct ShownMovement {
        uint64_t part = 0;
        std::optional<size_t> body;
        Transform by;
    };
    std::optional<ShownMovement> shown_movement_;
    bool section_for_map_ = false; ///< the section was put there to look into the mapped joint
    std::vector<GapMap> gap_map_;
    bool gap_map_wanted_ = false;
    GaugeLadder next_gauge_;
    uint64_t gap_map_asked_ = 0;
    bool tell_changed_ = false; ///< the last edit was of a card or a fit: the maker is told which parts it reached
    Stretch stretch_ = Stretch::Shape;
    int active_contact_ = -1, active_finding_ = -1;
    std::optional<double> cut_height_;
    std::optional<Eigen::Vector4d> section_;
    uint64_t isolated_ = 0;
    std::map<uint64_t, uint64_t> wound_back_;

    std::mutex mutex_;
    std::condition_variable wake_;
    std::deque<Job> jobs_;
    CancelToken running_;
    bool running_replaceable_ = false;
    bool quit_ = false;
    std::atomic<int> pending_{0};
    std::thread worker_;
};

} // namespace lp
