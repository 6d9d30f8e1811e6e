#include "app/widgets/column.h"
#include "app/theme/theme.h"
#include "base/inches.h"
#include "project/typed_numbers.h"
#include <QAbstractButton>
#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPointer>
#include <QScrollArea>
#include <QScrollBar>
#include <QTimer>

namespace lp {

using theme::Role;

QWidget* make_heading(const QString& title, const QString& soft, QWidget* parent) {
    auto* label = new QLabel(parent);
    label->setTextFormat(Qt::RichText);
    label->setText(
        QString("<span style='font-weight:800'>%1</span>&nbsp;&nbsp;<span style='color:%2;font-weight:500'>%3</span>")
            .arg(title.toHtmlEscaped(), theme::css(Role::SoftInk), as_shown(soft).toHtmlEscaped()));
    label->setContentsMargins(theme::margin, 10, theme::margin, 4);
    return label;
}

QLabel* make_note(const QString& text, bool wrong, QWidget* parent) {
    auto* label = new QLabel(as_shown(text), parent);
    label->setWordWrap(true);
    label->setFont(theme::words(12.5));
    label->setStyleSheet(QString("color: %1").arg(theme::css(wrong ? Role::Wrong : Role::SoftInk)));
    label->setContentsMargins(theme::margin, 2, theme::margin, 4);
    return label;
}

ValueRow make_value_row(const QString& name, const QString& hint, QWidget* parent) {
    auto* row = new QWidget(parent);
    auto* box = new QVBoxLayout(row);
    box->setContentsMargins(theme::margin, 0, theme::margin, 0);
    box->setSpacing(0);
    auto* line = new QHBoxLayout;
    auto* label = new QLabel(name, row);
    auto* field = new ValueField(ValueField::Look::Number, row);
    field->set_label(name, hint);
    label->setBuddy(field);
    line->addWidget(label);
    line->addStretch();
    line->addWidget(field);
    box->addLayout(line);
    auto* below = new QLabel(row);
    below->setFont(theme::numbers(12));
    below->setWordWrap(true);
    below->hide();
    box->addWidget(below);
    QObject::connect(field, &ValueField::hint_changed, below, [below](const QString& text, bool wrong) {
        below->setText(text);
        below->setStyleSheet(QString("color: %1").arg(theme::css(wrong ? Role::Wrong : Role::SoftInk)));
        below->setVisible(!text.isEmpty());
    });
    return {row, field, below};
}

Expected<double> typed_number(const Session& session, const std::string& typed, QuantityKind kind) {
    return evaluate_expression(typed, kind, session.results().values());
}

std::pair<QString, bool> explain_typed(const Session& session, const QString& typed, QuantityKind kind) {
    std::string text = typed.toStdString();
    if (size_t equals = text.find('='); equals != std::string::npos) text = text.substr(equals + 1);
    auto value = evaluate_expression(text, kind, session.results().values());
    if (!value) return {QString::fromStdString(value.error().text()), true};
    QString says = QString::fromStdString(format_quantity(*value, kind));
    if (kind == QuantityKind::Length) {
        const QString inches = QString::fromStdString(format_inches(*value));
        says = inches_are_shown() ? inches + " · " + says : says + " · " + inches;
    }
    return {"= " + says, false};
}

void make_quantity(const Session* session, ValueField* field, QuantityKind kind) {
    field->set_quantity(kind, [session] { return session->results().values(); });
    field->set_check([session, kind](const QString& typed) { return explain_typed(*session, typed, kind); });
}

void bind_number(Session* session, const ValueRow& row, double value, QuantityKind kind, const std::string& formula,
                 std::function<std::optional<Problem>(const std::string& typed)> apply) {
    ValueField* field = row.field;
    // Gaps and growths are hundredths of a millimetre: always two places, so that columns line up.
    QString text = QString::fromStdString(
        kind == QuantityKind::Length
            ? format_fixed(value, std::fabs(value * 100 - std::round(value * 100)) < 1e-6 ? 2 : 3) + " mm"
            : format_quantity(value, kind));
    const QString plain = kind == QuantityKind::Angle ? QString::fromStdString(format_number(value) + " deg") : text;
    field->set_value(text, formula.empty() ? plain : QString::fromStdString(formula));
    field->set_stepping(true);
    make_quantity(session, field, kind);
    auto set = [field, apply](const std::string& typed) {
        QPointer<ValueField> alive(field); // an edit may fill the column anew
        const auto wrong = apply(typed);
        if (!alive) return;
        if (wrong)
            field->refuse(QString::fromStdString(wrong->text()));
        else
            field->accept();
    };
    QObject::connect(field, &ValueField::submitted, field, [session, set, field, kind](const QString& typed) {
        // Refused here, where the field still stands: a rebuild would take the message with it.
        auto checked = explain_typed(*session, typed, kind);
        if (checked.second) return field->refuse(checked.first);
        set(typed.toStdString());
    });
    QObject::connect(field, &ValueField::stepped, field, [set, value, kind](double by) {
        // sizes of cards are fractions of a millimetre
        const double size = kind == QuantityKind::Length ? by * 0.1 * length_step_mm() : by;
        set(format_number(value + size, 6) + (kind == QuantityKind::Length  ? " mm"
                                              : kind == QuantityKind::Angle ? " deg"
                                                                            : ""));
    });
}

void bind_number(Session* session, const ValueRow& row, const std::string& key) {
    const Project& project = *session->project();
    const auto number = number_now(project, key);
    if (!number) return;
    const auto formula = project.formulas.find(key);
    bind_number(session, row, number->value, number->kind,
                formula == project.formulas.end() ? std::string() : formula->second,
                [session, key](const std::string& typed) {
                    return session->document().edit(SetNumber{key, typed}, true);
                });
}

Column::Column(QWidget* parent) : QWidget(parent) {
    body_ = new QVBoxLayout(this);
    body_->setContentsMargins(0, 0, 0, 8);
    body_->setSpacing(1);
}

void Column::refresh() {
    stale_ = !isVisible();
    if (stale_ || waits_for_typing()) return;
    QWidget* focus = QApplication::focusWidget();
    auto* pressed = qobject_cast<QAbstractButton*>(focus);
    const QString words = pressed && isAncestorOf(pressed) ? pressed->text() : QString();
    const qsizetype nth = words.isEmpty() ? -1 : shown_buttons().indexOf(pressed);
    auto* number = qobject_cast<ValueField*>(focus);
    // Filled twice before the first filling was shown, the column itself has the focus: the number stays wanted.
    if (number && isAncestorOf(number)) {
        hand_on_ = number->accessibleName();
        const auto alike = shown_fields(hand_on_);
        hand_nth_ = int(std::find(alike.begin(), alike.end(), number) - alike.begin());
    } else if (focus != this)
        hand_on_.clear();
    // It stays as high as it was while it is filled anew: what scrolls it would go to its top, away from the hand.
    setMinimumHeight(height());
    QScrollArea* area = nullptr;
    for (QWidget* w = parentWidget(); w && !area; w = w->parentWidget()) area = qobject_cast<QScrollArea*>(w);
    if (area) hold_scroll(area->verticalScrollBar());
    // Filled anew twice before it was shown once, only the second counts.
    QTimer::singleShot(1, this, [this, filling = ++fillings_] {
        if (filling == fillings_) setMinimumHeight(0);
    });
    rebuild();
    waits_ = 0;
    if (!hand_on_.isEmpty()) QTimer::singleShot(1, this, &Column::give_hand_back);
    if (words.isEmpty()) return;
    // The button of the same words, once it is shown (posted events do that, timers come after them): who pressed it by
    // a key goes on from there.
    QTimer::singleShot(1, this, [this, words, nth] {
        if (QApplication::focusWidget() != this) return;
        const auto buttons = shown_buttons();
        for (QAbstractButton* button : buttons)
            if (button->text() == words) return button->setFocus();
        if (nth >= 0 && nth < buttons.size()) buttons[nth]->setFocus(); // it says the opposite now
    });
}

std::vector<ValueField*> Column::shown_fields(const QString& name) const {
    std::vector<ValueField*> alike;
    for (auto* field : findChildren<ValueField*>())
        if (field->isVisible() && field->accessibleName() == name) alike.push_back(field);
    return alike;
}

/// To the number of the same name, so that Tab and what is typed next go on from it.
void Column::give_hand_back() {
    if (QApplication::focusWidget() != this) return typed_.clear();
    // Its row may not be shown yet.
    if (const auto alike = shown_fields(hand_on_); size_t(hand_nth_) < alike.size()) {
        ValueField* field = alike[size_t(hand_nth_)];
        hand_on_.clear();
        field->setFocus();
        if (!typed_.isEmpty()) field->begin_edit(std::exchange(typed_, {}));
        return;
    }
    constexpr int soon_ms = 10, most_waits = 50;
    if (++waits_ < most_waits) return QTimer::singleShot(soon_ms, this, &Column::give_hand_back);
    hand_on_.clear();
    typed_.clear();
}

void Column::keyPressEvent(QKeyEvent* event) {
    const bool printed = !event->text().isEmpty() && event->text()[0].isPrint() &&
                         !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier));
    if (hand_on_.isEmpty() || !printed) return QWidget::keyPressEvent(event);
    typed_ += event->text();
}

/// While a number is typed the column stays as it is; it is filled anew when that is done.
bool Column::waits_for_typing() {
    for (auto* field : findChildren<ValueField*>()) {
        if (!field->isVisible() || !field->editing()) continue;
        if (awaited_ == field) return true;
        awaited_ = field;
        // Once the hand has gone on to where it goes.
        connect(
            field, &ValueField::closed, this,
            [this] {
                awaited_ = nullptr;
                QTimer::singleShot(0, this, &Column::refresh);
            },
            Qt::SingleShotConnection);
        return true;
    }
    return false;
}

/// Its new rows are shown and take their heights one after the other; what scrolls it follows each time, and would stay
/// at the top where there was too little for a moment.
void Column::hold_scroll(QScrollBar* bar) {
    constexpr int settles_ms = 300;
    const bool held = holds_scroll_;
    if (!held) scroll_held_ = bar->value();
    holds_scroll_ = true;
    const auto follow = connect(bar, &QScrollBar::rangeChanged, this, [this, bar](int, int most) {
        if (most >= scroll_held_) bar->setValue(scroll_held_);
    });
    QTimer::singleShot(settles_ms, this, [this, follow, filling = fillings_ + 1] {
        disconnect(follow);
        if (filling == fillings_) holds_scroll_ = false;
    });
}

QList<QAbstractButton*> Column::shown_buttons() const {
    QList<QAbstractButton*> shown;
    for (auto* button : findChildren<QAbstractButton*>())
        if (button->isVisible()) shown << button;
    return shown;
}

void Column::showEvent(QShowEvent*) {
    if (!stale_) return;
    stale_ = false;
    rebuild();
}

void Column::clear() {
    // What has the focus goes: the column takes it, or the toolkit would look for the next one and scroll to it.
    QWidget* focus = QApplication::focusWidget();
    if (focus && focus != this && isAncestorOf(focus)) setFocus();
    while (QLayoutItem* item = body_->takeAt(0)) {
        if (item->widget()) {
            item->widget()->hide();
            item->widget()->deleteLater();
        }
        delete item;
    }
}

} // namespace lp
