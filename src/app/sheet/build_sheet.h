// The build sheet: the active part as numbered sentences with numbers in them, and the project's named numbers below.
#pragma once
#include "app/sheet/step_row.h"
#include <QTimer>

namespace lp {

class BuildSheet : public Column {
    Q_OBJECT
  public:
    explicit BuildSheet(Session* session, QWidget* parent = nullptr);
    const std::vector<StepRow*>& rows() const { return rows_; }
    /// The row whose faces were picked is marked.
    void mark_step(StepId step);
    ValueField* parameter_field(const std::string& name) const;
    QPushButton* next_step() const { return next_; }
    /// Opens the first number of a step: a step that was just added is being edited.
    void edit_step(StepId step);

  signals:
    void keys_back(); ///< a value was kept: the view has the keys again

  private:
    StepRow* row_of(StepId step);
    bool travel(StepId step, const std::string& field, bool forward);
    void take_hand(StepRow* row, const std::string& field);
    struct Typed {
        StepId step;
        std::string field;
        QString text;
        int cursor = 0;
        bool touched = false;
    };
    std::optional<Typed> being_typed() const;
    void rebuild() override;
    void add_search();
    QWidget* add_group_head(const std::string& group, size_t count);
    void show_results();
    void mark_picked();
    void mark_again();
    StepRow* add_row(const Part& part, size_t i);
    void add_next_row(const Part& part);
    void add_tail(const Part& part);
    void go_on();
    void show_parameters();
    void add_parameters();
    /// Place in the sheet (0: before the first step) that a global position means.
    size_t place_at(const QPoint& global) const;
    void show_drop_place(const QPoint& global);
    void drop_step(StepId step, const QPoint& global);

    Session* session_;
    std::vector<StepRow*> rows_; ///< as many as were made yet
    QVBoxLayout *pages_ = nullptr, *page_ = nullptr;
    bool tail_there_ = false;
    bool beyond_ = false; ///< the next row is behind what is wound back
    size_t shown_steps_ = 0, at_once_ = 0;
    size_t told_ = 0; ///< rows that know what came of their steps
    ParameterValues values_;
    QTimer going_on_;
    std::map<std::string, ValueField*> parameters_;
    QPointer<QPushButton> next_;   ///< "Next step ..."
    QWidget* drop_line_ = nullptr; ///< where a dragged step would go
    PartId shown_part_;
    StepId shown_wound_;
    std::set<std::pair<PartId, std::string>> folded_; ///< groups of parts whose steps are put away
    StepId focus_step_;
    std::string focus_field_;
};

/// Adds a step with its standard values (and these) and selects nothing new. Its first number is opened, unless it was
/// typed already.
void add_step(Session* session, PartId part, const std::string& kind, std::map<std::string, std::string> fields = {},
              bool typed = false);

} // namespace lp
