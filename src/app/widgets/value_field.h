// A value that is edited where it stands: click, Enter or just type; Escape leaves it as it was. Tab keeps what was
// typed and goes on to the next one. Arrow keys and the wheel step numbers by 1 (Shift 0.1, Ctrl 10).
#pragma once
#include "app/units.h"
#include <QLineEdit>
#include <QPointer>
#include <QWidget>
#include <functional>

namespace lp {

class ValueField : public QWidget {
    Q_OBJECT
  public:
    enum class Look { Number, Expression, Reference, Fit };
    explicit ValueField(Look look, QWidget* parent = nullptr);

    /// What is shown, and what is edited when it is not the same.
    void set_value(const QString& shown, const QString& edited, const QString& suffix = {});
    /// It holds a quantity: lengths are shown, edited and meant in the unit of the settings. What goes in and out of
    /// the field (set_value, submitted, typed, the check) stays as files have it. `values` may be asked at any time.
    void set_quantity(QuantityKind kind, std::function<ParameterValues()> values = {});
    void set_label(const QString& name, const QString& hint); ///< accessible name and tool tip
    /// What the typed text would come to ("= 6.20 mm"), or why it cannot be: shown below while typing.
    void set_check(std::function<std::pair<QString, bool>(const QString&)> check) { check_ = std::move(check); }
    /// A click opens this instead of the editor; it may call begin_edit().
    void set_menu(std::function<void(ValueField*)> menu) { menu_ = std::move(menu); }
    void set_stepping(bool on) { stepping_ = on; }
    /// Where Tab and Shift+Tab lead from here; false leaves it to the toolkit. Asked when the value was kept, after
    /// which this field may be gone.
    void set_travel(std::function<bool(bool forward)> travel) { travel_ = std::move(travel); }
    /// Who gets the keys when Enter kept the value; without it they stay here.
    void set_done(std::function<void()> done) { done_ = std::move(done); }
    /// As Enter does it: opens the editor where there is one, else only takes the keys.
    void take_hand();
    void begin_edit(const QString& start = {});
    bool editing() const { return editor_ != nullptr; }
    bool is_touched() const { return editor_ && editor_->text() != edited_; } ///< something else stands in the editor
    bool is_being_kept() const { return submitting_; }
    QLineEdit* editor() const { return editor_; }
    QString shown() const { return shown_; }

    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

  signals:
    /// The receiver calls accept() or refuse().
    void submitted(const QString& text);
    void stepped(double by);
    void hint_changed(const QString& text, bool wrong); ///< empty when there is nothing to say
    void typed(const QString& text);                    ///< another text stands in the editor
    void focused();
    void closed(); ///< the editor is gone, its text kept or not

  public slots:
    void accept();
    void refuse(const QString& why);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void focusInEvent(QFocusEvent*) override;
    void focusOutEvent(QFocusEvent*) override;
    void enterEvent(QEnterEvent*) override;
    void leaveEvent(QEvent*) override;
    bool eventFilter(QObject*, QEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    bool focusNextPrevChild(bool forward) override;

  private:
    void open();
    void leave(bool forward);
    bool keep(std::function<void()> then); ///< false when what was typed was refused
    void end_edit();
    QString meant(const QString& text) const; ///< what stands in the editor, as files have it
    void tell_check();
    Look look_;
    QString shown_, edited_, suffix_; ///< in the unit that is shown
    std::array<QString, 3> told_;     ///< the same three as they were set
    std::optional<QuantityKind> quantity_;
    std::function<ParameterValues()> values_;
    QPointer<QLineEdit> editor_;
    std::function<std::pair<QString, bool>(const QString&)> check_;
    std::function<void(ValueField*)> menu_;
    std::function<bool(bool)> travel_;
    std::function<void()> done_;
    bool stepping_ = false, hover_ = false, submitting_ = false;
};

} // namespace lp
