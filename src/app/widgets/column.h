// Small building blocks of the left column: headings, rows with a value on the right, notes, the reading of typed
// numbers.
#pragma once
#include "app/session.h"
#include "app/widgets/value_field.h"
#include <QAbstractButton>
#include <QLabel>
#include <QPointer>
#include <QVBoxLayout>

class QScrollBar;

namespace lp {

/// Bold heading with a soft word after it.
QWidget* make_heading(const QString& title, const QString& soft, QWidget* parent);
QLabel* make_note(const QString& text, bool wrong, QWidget* parent);
/// "Outside faces grow ........ 0.10 mm": name left, field right; a hint line appears below while typing.
struct ValueRow {
    QWidget* row;
    ValueField* field;
    QLabel* hint;
};
ValueRow make_value_row(const QString& name, const QString& hint, QWidget* parent);
/// Makes the field a number of this kind that is set through `apply`, which gets the text as typed and returns a
/// problem to refuse. `formula`: what was typed for it, where that was more than a number.
void bind_number(Session* session, const ValueRow& row, double value, QuantityKind kind, const std::string& formula,
                 std::function<std::optional<Problem>(const std::string& typed)> apply);
/// The field is the project's number of this key (project/typed_numbers.h).
void bind_number(Session* session, const ValueRow& row, const std::string& key);
/// The field holds a quantity: its unit as the settings say, and what the typed text comes to, below it.
void make_quantity(const Session* session, ValueField* field, QuantityKind kind);
/// What a typed text comes to with the project's named numbers.
Expected<double> typed_number(const Session& session, const std::string& typed, QuantityKind kind);
/// "= 6.20 mm · 0.244 in", or why the text cannot be read.
std::pair<QString, bool> explain_typed(const Session& session, const QString& text, QuantityKind kind);
/// A column's inside: scrolls when it is too long.
class Column : public QWidget {
    Q_OBJECT
  public:
    explicit Column(QWidget* parent = nullptr);
    QVBoxLayout* body() const { return body_; }
    /// Takes everything out (for filling anew).
    void clear();
    /// Fills it anew now when it is seen, else when it is next shown: a hidden column costs nothing.
    void refresh();

  protected:
    virtual void rebuild() {}
    void showEvent(QShowEvent*) override;
    /// It has the focus for a moment only: keys are kept for the number that gets it back.
    void keyPressEvent(QKeyEvent*) override;

  private:
    QList<QAbstractButton*> shown_buttons() const;
    std::vector<ValueField*> shown_fields(const QString& name) const;
    bool waits_for_typing();
    void give_hand_back();
    void hold_scroll(QScrollBar* bar);

    QVBoxLayout* body_;
    bool stale_ = false;
    QString hand_on_;              ///< name of the number that had the focus before the column was filled anew
    int hand_nth_ = 0;             ///< of those of that name
    QString typed_;                ///< meanwhile
    int waits_ = 0;                ///< for its row
    QPointer<ValueField> awaited_; ///< being typed into while there is something new to show
    int fillings_ = 0;             ///< how often it was filled
    int scroll_held_ = 0;
    bool holds_scroll_ = false;
};

} // namespace lp
