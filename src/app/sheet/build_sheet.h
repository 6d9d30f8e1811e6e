// The build sheet: the active part as numbered sentences with numbers in them, and the project's named numbers below.
#pragma once
#include "app/widgets/column.h"
#include <QPointer>
#include <QWidget>

namespace lp {

/// One sentence. Rebuilt when its step changes; told when only results did.
class StepRow : public QWidget {
    Q_OBJECT
  public:
    StepRow(Session* session, uint64_t part, const Step& step, size_t index, QWidget* parent);
    uint64_t step() const { return step_.id; }
    const Step& shown() const { return step_; }
    size_t index() const { return index_; }
    void show_outcome(const StepOutcome* outcome, const ParameterValues& values);
    ValueField* field(const std::string& name) const;
    void set_active(bool on);
    QString text() const; ///< all its words and numbers
    bool failed() const { return failed_; }
    bool is_active() const { return active_; }
    QPushButton* cure() const { return cure_; } ///< the button that does what would help; hidden when nothing would

  signals:
    void field_focused(uint64_t step, const std::string& field);
    void dragged(const QPoint& global); ///< by its number, up or down the sheet
    void dropped(const QPoint& global);

  protected:
    void paintEvent(QPaintEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;

  private:
    void build();
    void add_words(const QString& text, QWidget* flow);
    ValueField* add_field(const StepField& field, QWidget* flow);
    void open_choices(ValueField* field, const StepField& what);
    void open_menu(const QPoint& at);
    void show_groups(bool all);
    void offer_geometry(class QMenu* menu, ValueField* field, const StepField& what);
    void submit(ValueField* field, const std::string& name, const QString& text);
    void take_cure();

    Session* session_;
    uint64_t part_;
    Step step_;
    size_t index_;
    std::map<std::string, ValueField*> fields_;
    std::map<int, std::vector<QWidget*>> groups_; ///< of square brackets in the sentence
    std::set<int> unusual_;                       ///< groups whose fields are not all as usual
    QLabel* says_ = nullptr;
    QLabel* hint_ = nullptr;
    QPushButton* cure_ = nullptr;
    std::optional<FieldCure> offered_;
    bool active_ = false, failed_ = false;
    std::optional<QPoint> pressed_; ///< on the number
    bool dragging_ = false;
};

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
