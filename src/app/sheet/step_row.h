// A step as a numbered sentence with its numbers and words to click.
#pragma once
#include "app/widgets/column.h"
#include <QPointer>
#include <QTimer>
#include <QWidget>

namespace lp {

/// Shows what a text typed into a field would come to; what cannot be read shows nothing. Results::end_preview() ends
/// it.
void preview_typed(Session& session, PartId part, StepId step, const std::string& field, const std::string& text);

/// One sentence. Rebuilt when its step changes; told when only results did.
class StepRow : public QWidget {
    Q_OBJECT
  public:
    StepRow(Session* session, PartId part, const Step& step, size_t index, QWidget* parent);
    StepId step() const { return step_.id; }
    /// Shows the step with other values; false when the row must be laid out anew for it.
    bool take(const Step& step, size_t index);
    const Step& shown() const { return step_; }
    size_t index() const { return index_; }
    void show_outcome(const StepOutcome* outcome, const ParameterValues& values);
    ValueField* field(const std::string& name) const;
    /// What the tabulator goes through: its fields that are shown, as they stand in the sentence.
    std::vector<std::string> stops() const;
    const std::vector<std::string>& all_fields() const { return order_; }
    void set_active(bool on);
    QString text() const; ///< all its words and numbers
    bool failed() const { return failed_; }
    bool is_active() const { return active_; }
    QPushButton* cure() const { return cure_; } ///< the button that does what would help; hidden when nothing would

  signals:
    void field_focused(StepId step, const std::string& field);
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
    void ask_in_place(const QString& what, const QString& shown, const QString& now,
                      const std::function<void(const std::string&)>& keep);
    void show_groups(bool all);
    void offer_geometry(class QMenu* menu, ValueField* field, const StepField& what);
    using OfferValue = std::function<void(const QString& shown, const std::string& value)>;
    void offer_face(class QMenu* menu, const StepField& what, const OfferValue& offer);
    void offer_chosen(class QMenu* menu, const StepField& what, const OfferValue& offer);
    void offer_bodies(const StepField& what, const OfferValue& offer);
    void offer_steps(const StepField& what, const OfferValue& offer);
    void offer_outlines(const StepField& what, const OfferValue& offer);
    void offer_regions(class QMenu* menu, const OfferValue& offer);
    void submit(ValueField* field, const std::string& name, const QString& text);
    void preview(const std::string& name, const QString& text);
    void take_cure();

    Session* session_;
    PartId part_;
    Step step_;
    size_t index_;
    std::map<std::string, ValueField*> fields_;
    std::vector<std::string> order_;                       ///< of the fields in the sentence
    std::vector<std::pair<QLabel*, std::string>> counted_; ///< words in one of two forms, by the field that counts
    std::map<int, std::vector<QWidget*>> groups_;          ///< of square brackets in the sentence
    std::set<int> unusual_;                                ///< groups whose fields are not all as usual
    QLabel* says_ = nullptr;
    QLabel* hint_ = nullptr;
    QPushButton* cure_ = nullptr;
    std::optional<FieldCure> offered_;
    bool active_ = false, failed_ = false;
    std::optional<QPoint> pressed_; ///< on the number
    QTimer preview_timer_;
    std::pair<std::string, QString> typed_; ///< field and text that the timer shows
    bool dragging_ = false;
};

} // namespace lp
