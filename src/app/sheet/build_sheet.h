// The build sheet: the active part as numbered sentences with numbers in them, and the project's named numbers below.
#pragma once
#include "app/sheet/step_row.h"

namespace lp {

class BuildSheet : public Column {
    Q_OBJECT
  public:
    explicit BuildSheet(Session* session, QWidget* parent = nullptr);
    const std::vector<StepRow*>& rows() const { return rows_; }
    /// The row whose faces were picked is marked.
    void mark_step(uint64_t step);
    ValueField* parameter_field(const std::string& name) const;

  private:
    void rebuild() override;
    void add_search();
    QWidget* add_group_head(const std::string& group, size_t count);
    void show_results();
    void add_parameters();
    void open_new_steps(QWidget* below);
    /// Place in the sheet (0: before the first step) that a global position means.
    size_t place_at(const QPoint& global) const;
    void show_drop_place(const QPoint& global);
    void drop_step(uint64_t step, const QPoint& global);

    Session* session_;
    std::vector<StepRow*> rows_;
    std::map<std::string, ValueField*> parameters_;
    QWidget* drop_line_ = nullptr; ///< where a dragged step would go
    uint64_t shown_part_ = 0, shown_wound_ = 0;
    std::set<std::pair<uint64_t, std::string>> folded_; ///< groups of parts whose steps are put away
    uint64_t focus_step_ = 0;
    std::string focus_field_;
};

/// Menu of every kind of step; adds the chosen one to the part.
void open_step_menu(Session* session, uint64_t part, QWidget* at);
/// Adds a step with its standard values (and these) and selects nothing new.
void add_step(Session* session, uint64_t part, const std::string& kind, std::map<std::string, std::string> fields = {});

} // namespace lp
