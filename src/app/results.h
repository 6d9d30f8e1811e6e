// What is known of the project: the newest evaluation and analysis, and what was measured, mapped, led along or
// compared because the place of work asked for it. Worked out beside the interface thread; told by a signal each.
#pragma once
#include "app/document.h"
#include "app/workspace.h"
#include "project/contact_movement.h"
#include "project/cures.h"
#include "project/deviation_map.h"
#include <atomic>

namespace lp {

class Results : public QObject {
    Q_OBJECT
  public:
    Results(Document& document, Workspace& workspace, Worker& worker, QObject* parent = nullptr);

    // Of the newest snapshot they were finished for.
    const Evaluation* evaluation() const { return evaluation_.get(); }
    const std::shared_ptr<const Evaluation>& shared_evaluation() const { return evaluation_; }
    const Analysis* analysis() const { return analysis_.get(); }
    std::shared_ptr<const Analysis> shared_analysis() const { return analysis_; }
    bool evaluation_is_current() const { return evaluation_ && evaluation_->project == document_.project(); }
    bool analysis_is_current() const { return analysed_project_ == document_.project(); }
    /// Shows the parts as they would be with another snapshot, which is nobody's yet: a number that is being typed.
    void preview(const ProjectPtr& project);
    void end_preview(); ///< the parts as they are, unless the snapshot was kept meanwhile
    bool is_previewing() const { return previewed_ != nullptr; }
    Evaluator& evaluator() { return evaluator_; }
    void make(); ///< the newest snapshot; also again after a crash of the geometry kernel
    /// The values of the project's numbers as they were last worked out.
    ParameterValues values() const { return evaluation_ ? evaluation_->values : ParameterValues{}; }

    // Look-ups widgets need.
    /// Bodies of a part as they are shown: where its sheet is wound back, as they were there.
    const std::vector<StepBody>* bodies_of(PartId part) const;
    const Tessellation* tessellation_of(const Pick& pick) const;
    const Body* body_of(const Pick& pick) const;
    const FaceInfo* face_of(const Pick& pick) const;
    const EdgeInfo* edge_of(const Pick& pick) const;
    Transform pose_of(PartId part) const;
    Transform place_of(PartId part) const; ///< in the assembly
    /// A picked thing as a measurement keeps it.
    MeasuredThing thing_of(const Pick& pick) const;
    const ContactResult* active_contact() const; ///< null without one, or when it is not there any more

    /// What is measured of the selection: between two things, or the wall at a face.
    const std::optional<Measured>& selection_measure() const { return selection_measure_; }
    /// Works out the figures of a part's numbers as they are (the first) and of each of its variants.
    void compare_variants(PartId part);
    struct VariantFigures {
        std::string name; ///< empty: as it is now
        PartFigures figures;
    };
    /// Leads a kept movement along its path; once the parts are made, where they are still being made.
    void check_movement(MovementId movement);
    /// The same with the parts as a practice print leaves them; they must be made and looked at.
    void check_movement_as_printed(MovementId movement);
    /// What came of it for the newest snapshot it was run on; null before. Stale when the project has changed since.
    const MovementOutcome* movement_outcome(MovementId movement) const;
    bool movement_is_current(MovementId movement) const;
    /// Whether things that are right as they stand were moved, with the bodies as they are now.
    Led led_of(const ContactResult& contact) const;
    /// Shows what a movement leads where it is at a position; nothing shows it where it stands.
    void show_movement(MovementId movement, std::optional<double> position);
    std::optional<double> shown_position(MovementId movement) const;
    bool is_showing_movement() const { return shown_movement_.has_value(); }
    /// From where a body is drawn to where it stands: only the stretch Fit shows that.
    Transform stands(PartId part, size_t body) const;
    /// From where a body stands to where the movement that is shown leads it.
    Transform shifted(PartId part, size_t body) const;
    /// What would cure the finding that is looked at, tried on the parts as they are; empty while that is not known.
    const std::vector<TriedCure>& cures() const { return cures_; }
    bool trying_cures() const { return trying_cures_; }
    /// The gap of the active contact, coloured on its surface.
    const std::vector<SurfaceMap>& gap_map() const { return gap_map_; }
    /// What is coloured on the part that is checked besides what hangs: wall thickness, or how far it is off its
    /// original; empty while it is not known.
    const std::vector<std::shared_ptr<const SurfaceMap>>& check_map() const { return check_map_; }
    bool mapping_check() const { return mapping_check_; }
    /// What the active part is measured against where how far it is off is coloured.
    std::optional<Original> original() const;

  signals:
    void evaluated();
    void analysed();
    void measured();
    void variants_compared(lp::PartId part, const std::vector<lp::Results::VariantFigures>& figures);
    void movement_checked(lp::MovementId movement);
    void movement_shown(); ///< where bodies are led to has changed
    void gap_map_changed();
    void check_map_changed();
    void cures_tried();

  private:
    void begin_making(const ProjectPtr& wanted);
    void lead(MovementId movement, std::function<Expected<MovementOutcome>(const Task&)> run);
    void prove(); ///< what the evaluation shown stands on; made again where it does not hold
    void analyse();
    void take_evaluation(std::shared_ptr<const Evaluation> evaluation);
    void tell_what_changed(const Evaluation* before);
    void measure_selection();
    void map_gap();
    void map_check();
    void look_into_joint();
    void show_wound();
    void try_cures();

    Document& document_;
    Workspace& workspace_;
    Worker& worker_;
    Evaluator evaluator_;
    Analyser analyser_;
    std::shared_ptr<const Evaluation> evaluation_;
    std::shared_ptr<const Analysis> analysis_;
    ProjectPtr analysed_project_;
    ProjectPtr previewed_;      ///< null: what is shown is the document
    bool tell_changed_ = false; ///< the last edit was of a card or a fit: the maker is told which parts it reached
    std::optional<Measured> selection_measure_;
    uint64_t measure_asked_ = 0; ///< number of the newest question
    struct CheckedMovement {
        ProjectPtr project; ///< that it was run on
        std::shared_ptr<const MovementOutcome> outcome;
    };
    std::map<MovementId, CheckedMovement> movements_;
    std::optional<MovementId> movement_asked_; ///< waits for the parts
    std::vector<TriedCure> cures_;
    bool trying_cures_ = false;
    /// Number of the newest question about cures; an older one ends.
    std::shared_ptr<std::atomic<uint64_t>> newest_cures_ = std::make_shared<std::atomic<uint64_t>>(0);
    std::optional<std::pair<std::shared_ptr<const Evaluation>, FindingRef>> cures_of_; ///< what they were tried for
    std::optional<std::pair<MovementId, double>> shown_movement_;
    mutable std::map<MovementId, uint64_t> movement_keys_; ///< of the evaluation, as far as they were asked for
    bool section_for_map_ = false;                         ///< the section was put there to look into the mapped joint
    std::vector<SurfaceMap> gap_map_;
    uint64_t gap_map_asked_ = 0;
    std::vector<std::shared_ptr<const SurfaceMap>> check_map_;
    bool mapping_check_ = false;
    /// What it is mapped for: fingerprints of the part and of its original (0 for walls), and the nozzle.
    std::optional<std::tuple<uint64_t, uint64_t, double>> check_map_of_;
};

} // namespace lp
