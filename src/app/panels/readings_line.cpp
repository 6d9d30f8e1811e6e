#include "app/panels/readings_line.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/text.h"
#include <QButtonGroup>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace lp {

using theme::Role;

QString readings_words(const Parameter& p) {
    const Readings& r = p.readings;
    if (r.values.empty()) return {};
    const char* unit = p.kind == QuantityKind::Length ? " mm" : "°";
    auto said = [&](double v) { return format_fixed(v, p.kind == QuantityKind::Length ? 3 : 2) + unit; };
    std::string words = counted(r.values.size(), "reading", "readings") + ", mean " + said(mean_of(r));
    if (r.values.size() > 1) words += ", spread " + said(spread_of(r));
    if (p.kind == QuantityKind::Length && spread_of(r) > wide_spread_mm)
        words +=
            " – wider than " + format_number(wide_spread_mm) + " mm: something moved, or it is not the same all over";
    return as_shown(words);
}

ReadingsLine::ReadingsLine(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    setAccessibleName("Readings");
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(0, 4, 0, 0);
    rows->setSpacing(4);
    auto* first = new QHBoxLayout;
    first->setSpacing(6);
    title_ = new QLabel(this);
    title_->setTextFormat(Qt::RichText);
    line_ = new QLineEdit(this);
    line_->setObjectName("reading");
    line_->setAccessibleName("A reading");
    line_->setPlaceholderText("a reading, then Enter; Enter alone: the next number; a name: that one");
    line_->setFont(theme::numbers(13));
    line_->installEventFilter(this);
    first->addWidget(title_);
    first->addWidget(line_, 1);
    rows->addLayout(first);
    auto* second = new QHBoxLayout;
    second->setSpacing(6);
    second->addWidget(new QLabel("It is", this));
    follows_ = new QButtonGroup(this);
    const std::pair<Follows, const char*> choices[] = {{Follows::Mean, "the mean"},
                                                       {Follows::Largest, "the largest"},
                                                       {Follows::Smallest, "the smallest"},
                                                       {Follows::None, "as typed"}};
    for (auto [follows, words] : choices) {
        auto* button = new QPushButton(words, this);
        button->setCheckable(true);
        button->setAutoDefault(false);
        button->setAccessibleName(QString("The number is %1").arg(words));
        follows_->addButton(button, int(follows));
        connect(button, &QPushButton::clicked, this, [this, follows = follows] { set_follows(follows); });
        second->addWidget(button);
    }
    auto* drop = new QPushButton("Drop the last", this);
    drop->setObjectName("drop-reading");
    drop->setAutoDefault(false);
    drop->setToolTip("Backspace in the empty line does it too");
    connect(drop, &QPushButton::clicked, this, &ReadingsLine::drop_last);
    second->addWidget(drop);
    second->addStretch();
    rows->addLayout(second);
    says_ = new QLabel(this);
    says_->setObjectName("readings-say");
    says_->setFont(theme::numbers(12.5));
    says_->setWordWrap(true);
    rows->addWidget(says_);
    wrong_ = new QLabel(this);
    wrong_->setWordWrap(true);
    wrong_->setStyleSheet(QString("color: %1").arg(theme::css(Role::Wrong)));
    wrong_->hide();
    rows->addWidget(wrong_);
    setFocusProxy(line_);
    refresh();
}

const Parameter* ReadingsLine::parameter() const {
    for (const Parameter& p : session_->project()->parameters)
        if (p.name == name_) return &p;
    return nullptr;
}

QString ReadingsLine::says() const {
    return wrong_->isHidden() ? says_->text() : wrong_->text();
}

QPushButton* ReadingsLine::follow_button(Follows follows) const {
    return qobject_cast<QPushButton*>(follows_->button(int(follows)));
}

void ReadingsLine::set_number(const std::string& name) {
    if (name == name_) return;
    name_ = name;
    tell({});
    refresh();
}

void ReadingsLine::refresh() {
    const auto& all = session_->project()->parameters;
    if (!parameter()) name_ = all.empty() ? std::string() : all.front().name;
    const Parameter* p = parameter();
    title_->setText(p ? "Readings of <b>" + QString::fromStdString(name_) + "</b>" : QString("Readings"));
    const bool measured = p && (p->kind == QuantityKind::Length || p->kind == QuantityKind::Angle);
    for (QAbstractButton* button : follows_->buttons()) button->setEnabled(measured);
    if (p) follows_->button(int(p->readings.follows))->setChecked(true);
    findChild<QPushButton*>("drop-reading")->setEnabled(p && !p->readings.values.empty());
    if (!p) return says_->setText("Type the name of what you measure, such as rod_d, then its readings.");
    QStringList values;
    for (double v : p->readings.values)
        values << (p->kind == QuantityKind::Length ? bare_length(v) : QString::fromStdString(format_number(v)));
    says_->setText(values.isEmpty() ? QString("None yet.") : values.join(" · ") + "  —  " + readings_words(*p));
}

std::optional<Problem> ReadingsLine::set(const Readings& readings) {
    auto wrong = session_->document().edit(SetReadings{name_, readings}, true);
    tell(wrong);
    refresh();
    return wrong;
}

void ReadingsLine::tell(const std::optional<Problem>& wrong) {
    wrong_->setText(wrong ? as_shown(wrong->text()) : QString());
    wrong_->setVisible(wrong.has_value());
}

/// A caliper sends its sign and leading noughts: "+006.02".
void ReadingsLine::take_reading(const QString& typed) {
    const Parameter* p = parameter();
    if (!p) return;
    QString text = typed;
    if (text.startsWith('+')) text.remove(0, 1);
    auto value = evaluate_expression(as_typed(text, p->kind, {}).toStdString(), p->kind, session_->results().values());
    if (!value) return tell(value.error());
    Readings readings = p->readings;
    readings.values.push_back(*value);
    if (readings.values.size() == 1 && readings.follows == Follows::None) readings.follows = Follows::Mean;
    if (!set(readings)) line_->clear();
}

void ReadingsLine::take() {
    const QString typed = line_->text().trimmed();
    if (typed.isEmpty()) return go_on(1);
    if (check_parameter_name(typed.toStdString())) return take_reading(typed);
    // A name: of a number there is, or of a new one that waits for its first reading.
    const std::string name = typed.toStdString();
    const auto& all = session_->project()->parameters;
    if (std::none_of(all.begin(), all.end(), [&](const Parameter& p) { return p.name == name; }))
        if (auto wrong = session_->document().edit(SetParameter{name, "0 mm", QuantityKind::Length, {}}, true))
            return tell(wrong);
    line_->clear();
    set_number(name);
    emit number_changed(name_);
}

void ReadingsLine::go_on(int by) {
    const auto& all = session_->project()->parameters;
    for (size_t i = 0; i < all.size(); ++i)
        if (all[i].name == name_) {
            set_number(all[(i + all.size() + size_t(by)) % all.size()].name);
            return emit number_changed(name_);
        }
}

void ReadingsLine::drop_last() {
    const Parameter* p = parameter();
    if (!p || p->readings.values.empty()) return;
    Readings readings = p->readings;
    readings.values.pop_back();
    set(readings);
}

void ReadingsLine::set_follows(Follows follows) {
    const Parameter* p = parameter();
    if (!p) return;
    Readings readings = p->readings;
    readings.follows = follows;
    set(readings);
    line_->setFocus();
}

bool ReadingsLine::eventFilter(QObject* object, QEvent* event) {
    if (object != line_ || event->type() != QEvent::KeyPress) return false;
    auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) return take(), true;
    if (!line_->text().isEmpty()) return false;
    if (key->key() == Qt::Key_Backspace) return drop_last(), true;
    if (key->key() == Qt::Key_Down || key->key() == Qt::Key_Up) return go_on(key->key() == Qt::Key_Down ? 1 : -1), true;
    return false;
}

} // namespace lp
