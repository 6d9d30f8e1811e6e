#include "app/widgets/value_field.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>

namespace lp {

using theme::Role;

ValueField::ValueField(Look look, QWidget* parent) : QWidget(parent), look_(look) {
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setFont(look == Look::Reference || look == Look::Fit ? theme::words(13.5, QFont::Bold) : theme::numbers(13));
}

void ValueField::set_quantity(QuantityKind kind, std::function<ParameterValues()> values) {
    quantity_ = kind;
    values_ = std::move(values);
    const auto told = told_;
    set_value(told[0], told[1], told[2]);
}

QString ValueField::meant(const QString& text) const {
    if (text == edited_) return told_[1]; // not touched: not a digit of it is lost
    return quantity_ ? as_typed(text, *quantity_, values_ ? values_() : ParameterValues{}) : text;
}

void ValueField::set_value(const QString& told, const QString& source, const QString& told_suffix) {
    told_ = {told, source, told_suffix};
    const QString shown = quantity_ ? as_shown(told) : told, suffix = as_shown(told_suffix),
                  edited = quantity_ ? to_edit(source, *quantity_) : source;
    if (shown == shown_ && edited == edited_ && suffix == suffix_) return; // laying out anew costs more than the look
    // Open and not touched, the editor follows; what is being typed stays.
    if (editor_ && !submitting_ && editor_->text() == edited_ && edited != edited_) {
        editor_->setText(edited);
        editor_->selectAll();
    }
    shown_ = shown;
    edited_ = edited;
    suffix_ = suffix;
    setAccessibleDescription(shown + " " + suffix);
    updateGeometry();
    update();
}

void ValueField::set_label(const QString& name, const QString& hint) {
    setAccessibleName(name);
    setToolTip(hint);
}

QSize ValueField::sizeHint() const {
    int height = 25;
    if (editor_)
        return {std::max(96, QFontMetrics(theme::numbers(13)).horizontalAdvance(editor_->text()) + 24), height};
    int width = fontMetrics().horizontalAdvance(shown_);
    if (!suffix_.isEmpty()) width += QFontMetrics(theme::numbers(13)).horizontalAdvance(" " + suffix_);
    return {std::max(width, 7) + 2, height};
}

void ValueField::paintEvent(QPaintEvent*) {
    if (editor_) return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (hasFocus() || hover_) {
        p.setPen(hasFocus() ? QPen(theme::colour(Role::Accent), 1.4) : QPen(Qt::NoPen));
        p.setBrush(theme::colour(hasFocus() ? Role::Field : Role::Wash));
        p.drawRoundedRect(QRectF(rect()).adjusted(0.7, 1.7, -0.7, -1.7), 3, 3);
    }
    bool reference = look_ == Look::Reference || look_ == Look::Fit;
    QColor ink = theme::colour(reference ? Role::Accent : Role::Brass);
    p.setPen(ink);
    p.setFont(font());
    double base = (height() + fontMetrics().ascent() - fontMetrics().descent()) / 2.0;
    p.drawText(QPointF(1, base), shown_);
    double word = fontMetrics().horizontalAdvance(shown_), end = word;
    if (!suffix_.isEmpty()) {
        p.setFont(theme::numbers(13));
        p.setPen(theme::colour(Role::Brass));
        p.drawText(QPointF(1 + word, base), " " + suffix_);
        end += QFontMetrics(theme::numbers(13)).horizontalAdvance(" " + suffix_);
    }
    QPen rule(reference ? ink : theme::colour(Role::BrassRule), 1.2);
    // Solid under a plain number, dashed under one that is worked out, dotted under a name.
    if (look_ == Look::Expression) rule.setDashPattern({3, 2});
    if (reference) rule.setDashPattern({1, 2});
    p.setPen(rule);
    if (!hasFocus()) p.drawLine(QPointF(1, height() - 3.5), QPointF(end + 1, height() - 3.5));
}

void ValueField::open() {
    if (menu_)
        menu_(this);
    else
        begin_edit();
}

void ValueField::take_hand() {
    setFocus(Qt::TabFocusReason);
    if (!menu_) begin_edit();
}

bool ValueField::focusNextPrevChild(bool forward) {
    return (travel_ && travel_(forward)) || QWidget::focusNextPrevChild(forward);
}

/// What is typed is kept; then the hand goes on. Refused, it stays in the editor. Keeping it may take this field away.
bool ValueField::keep(std::function<void()> then) {
    QPointer<ValueField> self(this);
    submitting_ = true;
    emit submitted(meant(editor_->text()));
    if (self) submitting_ = false;
    if (self && self->editor_) return false;
    if (then) then();
    return true;
}

/// By Tab: the editor itself has no place among the fields, this one has.
void ValueField::leave(bool forward) {
    if (travel_) {
        keep([travel = travel_, forward] { travel(forward); });
        return;
    }
    QPointer<ValueField> self(this);
    auto go_on = [self, forward] {
        if (self) self->focusNextPrevChild(forward);
    };
    if (editor_->text() != edited_) {
        keep(go_on);
        return;
    }
    end_edit();
    setFocus();
    go_on();
}

void ValueField::begin_edit(const QString& start) {
    if (editor_) return;
    editor_ = new QLineEdit(this);
    editor_->setFont(theme::numbers(13));
    editor_->setAccessibleName(accessibleName());
    editor_->setText(start.isEmpty() ? edited_ : start);
    if (start.isEmpty()) editor_->selectAll();
    editor_->setTextMargins(-4, 0, -4, 0);
    editor_->installEventFilter(this);
    connect(editor_, &QLineEdit::textChanged, this, [this](const QString& text) {
        updateGeometry();
        if (text != edited_) emit typed(meant(text));
        tell_check();
    });
    editor_->setGeometry(rect());
    editor_->show();
    editor_->setFocus();
    updateGeometry();
    tell_check();
}

void ValueField::tell_check() {
    if (!check_ || !editor_) return;
    auto [says, wrong] = check_(meant(editor_->text()));
    emit hint_changed(says, wrong);
}

void ValueField::end_edit() {
    if (!editor_) return;
    QLineEdit* old = editor_;
    editor_ = nullptr;
    old->removeEventFilter(this);
    old->hide();
    old->deleteLater();
    emit hint_changed({}, false);
    updateGeometry();
    update();
    emit closed();
}

void ValueField::accept() {
    bool had = editor_ && editor_->hasFocus();
    end_edit();
    if (had) setFocus();
}

void ValueField::refuse(const QString& why) {
    emit hint_changed(why, true);
}

bool ValueField::eventFilter(QObject* object, QEvent* event) {
    if (object != editor_) return false;
    if (event->type() == QEvent::ShortcutOverride && !editor_->isUndoAvailable()) {
        // Nothing was typed: to take back means the last act, as it does everywhere else.
        auto* key = static_cast<QKeyEvent*>(event);
        if (key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo)) {
            event->ignore();
            return true;
        }
    }
    if (event->type() == QEvent::KeyPress) {
        auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_Escape) {
            end_edit();
            setFocus();
            return true;
        }
        if (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) {
            // Taken here: let through, the line would hand the key on to this field, which would open again.
            keep(done_);
            return true;
        }
        if (key->key() == Qt::Key_Tab || key->key() == Qt::Key_Backtab) {
            leave(key->key() == Qt::Key_Tab);
            return true;
        }
        if (stepping_ && (key->key() == Qt::Key_Up || key->key() == Qt::Key_Down)) {
            double size = key->modifiers() & Qt::ShiftModifier ? 0.1 : key->modifiers() & Qt::ControlModifier ? 10 : 1;
            end_edit();
            setFocus();
            emit stepped(key->key() == Qt::Key_Up ? size : -size);
            return true;
        }
    }
    if (event->type() == QEvent::FocusOut && !submitting_) {
        // Leaving means taking what was typed; what cannot be read is let go.
        auto* focus = static_cast<QFocusEvent*>(event);
        if (focus->reason() == Qt::PopupFocusReason || focus->reason() == Qt::ActiveWindowFocusReason) return false;
        QString text = editor_->text();
        bool differs = text != edited_;
        QPointer<ValueField> self(this);
        if (differs) emit submitted(meant(text));
        if (self) end_edit();
        return false;
    }
    return false;
}

void ValueField::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) open();
}

void ValueField::keyPressEvent(QKeyEvent* event) {
    int key = event->key();
    double size = event->modifiers() & Qt::ShiftModifier ? 0.1 : event->modifiers() & Qt::ControlModifier ? 10 : 1;
    if (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_F2 || key == Qt::Key_Space) return open();
    if (stepping_ && (key == Qt::Key_Up || key == Qt::Key_Down)) return emit stepped(key == Qt::Key_Up ? size : -size);
    QString text = event->text();
    if (!menu_ && !text.isEmpty() && text[0].isPrint() &&
        !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier)))
        return begin_edit(text);
    QWidget::keyPressEvent(event);
}

void ValueField::wheelEvent(QWheelEvent* event) {
    if (!stepping_ || !hasFocus() || editor_) return event->ignore(); // an unfocused field lets the column scroll
    double size = event->modifiers() & Qt::ShiftModifier ? 0.1 : event->modifiers() & Qt::ControlModifier ? 10 : 1;
    int delta =
        event->angleDelta().y() ? event->angleDelta().y() : event->angleDelta().x(); // Shift turns the wheel sideways
    emit stepped(delta > 0 ? size : -size);
    event->accept();
}

void ValueField::focusInEvent(QFocusEvent*) {
    emit focused();
    update();
}
void ValueField::focusOutEvent(QFocusEvent*) {
    update();
}
void ValueField::enterEvent(QEnterEvent*) {
    hover_ = true;
    update();
}
void ValueField::leaveEvent(QEvent*) {
    hover_ = false;
    update();
}
void ValueField::resizeEvent(QResizeEvent*) {
    if (editor_) editor_->setGeometry(rect());
}

} // namespace lp
