// The place of work: which part, which stretch, what is chosen and what is shown. One signal a fact.
#pragma once
#include "app/view/scene.h"
#include "project/findings.h"
#include <QObject>

namespace lp {

class Workspace : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;

    PartId active_part() const { return active_part_; }
    void set_active_part(PartId part);
    const std::vector<Pick>& selection() const { return selection_; }
    void select(const Pick& pick, bool add);
    void select_all(const std::vector<Pick>& picks); ///< instead of what is chosen
    void clear_selection();
    /// What each pick is after a change; those that are nothing any more are let go. Tells when one is another.
    void follow_picks(const std::function<std::optional<Pick>(const Pick&)>& now);
    /// The step in hand: whose sentence is marked, and whose sizes stand in the view; none without one.
    StepId active_step() const { return active_step_; }
    void set_active_step(StepId step);
    /// The copy of the active part that is in hand on the beds; the first is 0.
    int active_copy() const { return active_copy_; }
    void set_active_copy(int copy);
    /// The single support in hand: the place it carries, in the design frame of the active part.
    const std::optional<Vec3>& active_support() const { return active_support_; }
    void set_active_support(const std::optional<Vec3>& place);
    /// The brush in hand on the bed.
    struct Brush {
        std::optional<FaceMark> mark; ///< none: it wipes marks off
        double radius_mm = 3;
        bool operator==(const Brush&) const = default;
    };
    const std::optional<Brush>& brush() const { return brush_; }
    void take_brush(const std::optional<Brush>& brush);
    Stretch stretch() const { return stretch_; }
    void set_stretch(Stretch stretch);
    const std::optional<ContactRef>& active_contact() const { return active_contact_; }
    void set_active_contact(const std::optional<ContactRef>& contact);
    const std::optional<FindingRef>& active_finding() const { return active_finding_; }
    void set_active_finding(const std::optional<FindingRef>& finding);
    /// Which of its places is looked at, where it has several.
    size_t finding_place() const { return finding_place_; }
    void set_finding_place(size_t place);
    /// mm above the bed, in the active part's print pose
    std::optional<double> cut_height() const { return cut_height_; }
    void set_cut_height(std::optional<double> height);
    /// Section of the view: what has n.p + d >= 0 stays. Apart from the cut of the layer strip.
    const std::optional<Eigen::Vector4d>& section() const { return section_; }
    void set_section(const std::optional<Eigen::Vector4d>& plane);
    PartId isolated() const { return isolated_; } ///< the one part that is shown; none for all that are visible
    bool ghosts() const { return ghosts_; }       ///< the others are shown all the same, faint
    void isolate(PartId part, bool ghosts = false);
    /// The step the sheet of a part is wound back to; none: it shows all of it.
    StepId wound_back(PartId part) const;
    void wind_back(PartId part, StepId step);
    const std::map<PartId, StepId>& all_wound_back() const { return wound_back_; }
    /// What is coloured on the part that is checked.
    enum class Coloured { Hanging, Walls, Deviation };
    Coloured coloured() const { return coloured_; }
    void set_coloured(Coloured what);
    bool gap_map_wanted() const { return gap_map_wanted_; }
    void want_gap_map(bool wanted);
    /// What the next gauge is made like.
    const GaugeLadder& next_gauge() const { return next_gauge_; }
    void set_next_gauge(const GaugeLadder& ladder);
    /// Another project: everything as at the beginning.
    void begin(PartId first_part);

  signals:
    void active_part_changed();
    void selection_changed();
    void step_changed();
    void copy_changed();
    void support_changed();
    void brush_changed();
    void stretch_changed();
    void contact_changed();
    void finding_changed();
    void cut_changed(); ///< cut height, section or isolated part
    void wound_changed();
    void gap_map_wanted_changed();
    void coloured_changed();
    void gauge_changed();

  private:
    PartId active_part_, isolated_;
    bool ghosts_ = false;
    StepId active_step_;
    int active_copy_ = 0;
    std::optional<Vec3> active_support_;
    std::optional<Brush> brush_;
    std::vector<Pick> selection_;
    Stretch stretch_ = Stretch::Shape;
    std::optional<ContactRef> active_contact_;
    std::optional<FindingRef> active_finding_;
    size_t finding_place_ = 0;
    std::optional<double> cut_height_;
    std::optional<Eigen::Vector4d> section_;
    std::map<PartId, StepId> wound_back_;
    bool gap_map_wanted_ = false;
    Coloured coloured_ = Coloured::Hanging;
    GaugeLadder next_gauge_;
};

} // namespace lp
