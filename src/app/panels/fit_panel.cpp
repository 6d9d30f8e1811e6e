#include "app/panels/fit_panel.h"
#include "app/theme/theme.h"
#include "project/contact_words.h"
#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <QPointer>
#include <QPushButton>

namespace lp {

using theme::Role;

MarkRow::MarkRow(const QString& title, const QString& below, QWidget* parent)
    : QWidget(parent), title_(title), below_(below) {
    setFixedHeight(44);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName(title);
    setAccessibleDescription(below);
    setToolTip(below);
}

void MarkRow::set_active(bool on) {
    active_ = on;
    update();
}

void MarkRow::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Space)
        emit chosen();
    else if (event->key() == Qt::Key_Down)
        focusNextChild();
    else if (event->key() == Qt::Key_Up)
        focusPreviousChild();
    else
        QWidget::keyPressEvent(event);
}

void MarkRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (active_) {
        p.fillRect(rect(), theme::colour(Role::Wash));
        p.fillRect(QRect(0, 0, 3, height()), theme::colour(Role::Accent));
    } else if (hover_) {
        p.fillRect(rect(), theme::colour(Role::Paper));
    }
    QRectF glyph(theme::margin, 12, 20, 20);
    theme::draw_mark(p, glyph, mark_);
    p.setPen(theme::colour(Role::Ink));
    p.setFont(theme::words(13.5, QFont::DemiBold));
    p.drawText(QRectF(44, 4, width() - 52, 19), Qt::AlignVCenter,
               p.fontMetrics().elidedText(title_, Qt::ElideRight, width() - 56));
    p.setPen(theme::colour(Role::SoftInk));
    p.setFont(theme::numbers(12));
    p.drawText(QRectF(44, 22, width() - 52, 18), Qt::AlignVCenter,
               p.fontMetrics().elidedText(below_, Qt::ElideRight, width() - 56));
    if (hasFocus()) {
        p.setPen(QPen(theme::colour(Role::Accent), 1.4));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
    }
}

FitPanel::FitPanel(Session* session, QWidget* parent) : Column(parent), session_(session) {
    setAccessibleName("Contacts and printer card");
    connect(&session->document(), &Document::project_changed, this, &FitPanel::refresh);
    for (auto fact : {&Workspace::selection_changed, &Workspace::active_part_changed, &Workspace::contact_changed})
        connect(&session->workspace(), fact, this, &FitPanel::refresh);
    connect(&session->results(), &Results::analysed, this, &FitPanel::refresh);
    connect(&session->results(), &Results::movement_checked, this, &FitPanel::refresh);
    connect(&session->workspace(), &Workspace::gauge_changed, this, &FitPanel::refresh);
    refresh();
}

ValueField* FitPanel::fit_field(const std::string& name) const {
    auto found = fits_.find(name);
    return found == fits_.end() ? nullptr : found->second;
}

void FitPanel::rebuild() {
    for (ValueField* field : findChildren<ValueField*>())
        if (field->editing()) return; // never pull an editor from under the fingers
    // A row that was made a moment ago takes the focus only once it is shown: until then the column holds it.
    QWidget* focus = QApplication::focusWidget();
    on_contact_ = std::count(contacts_.begin(), contacts_.end(), focus) > 0 || (on_contact_ && focus == this);
    clear();
    contacts_.clear();
    fits_.clear();
    places_.clear();
    const Analysis* analysis = session_->results().analysis();
    int unsettled = 0;
    if (analysis)
        for (const ContactResult& c : analysis->contacts) unsettled += c.open() || c.state == FitState::Unset;
    size_t count = analysis ? analysis->contacts.size() : 0;
    body()->addWidget(make_heading(
        "Contacts",
        QString("%1, %2").arg(count).arg(unsettled ? QString("%1 to settle").arg(unsettled) : "all as wanted"), this));
    if (!count)
        body()->addWidget(make_note(
            "Nothing comes near anything yet. Cut a part with another at a fit, and the gap is measured here.", false,
            this));
    for (size_t i = 0; i < count; ++i) {
        const ContactResult& c = analysis->contacts[i];
        QString below = QString::fromStdString(contact_words(*session_->project(), c)),
                warning = QString::fromStdString(contact_warning(c));
        if (!warning.isEmpty()) below = warning + " · " + below;
        const Led led = session_->results().led_of(c);
        auto* row = new MarkRow(QString::fromStdString(contact_title(c)), below, this);
        row->set_mark(c.state);
        row->set_active(session_->workspace().active_contact() == c.ref());
        connect(
            row, &MarkRow::chosen, session_, [s = session_, ref = c.ref()] { s->workspace().set_active_contact(ref); },
            Qt::QueuedConnection);
        contacts_.push_back(row);
        body()->addWidget(row);
        if (on_contact_ && session_->workspace().active_contact() == c.ref()) row->setFocus();
        if (!led_words(led).empty() && session_->workspace().active_contact() == c.ref()) add_led(c, led);
    }
    movements_ = new MovementSection(session_, this);
    body()->addWidget(movements_);
    add_place();
    body()->addWidget(make_heading("Fits", "gap a face", this));
    for (const NamedFit& fit : session_->project()->fits) {
        ValueRow row = make_value_row(QString::fromStdString(fit.name), QString::fromStdString(fit.source), this);
        bind_number(session_, row, fit.gap_mm, QuantityKind::Length, [this, name = fit.name](double value) {
            return session_->document().edit(SetFitGap{name, value}, true);
        });
        fits_[fit.name] = row.field;
        body()->addWidget(row.row);
    }
    gauges_ = new GaugeSection(session_, this);
    body()->addWidget(gauges_);
    cards_ = new CardSection(session_, this);
    body()->addWidget(cards_);
    body()->addStretch();
}

/// That a contact was not moved yet, or touches on the way, and what to do about it.
void FitPanel::add_led(const ContactResult& contact, Led led) {
    QString words = QString::fromStdString(led_words(led));
    words[0] = words[0].toUpper();
    const bool way = has_way(*session_->project(), contact);
    if (led == Led::NotYet && !way)
        words += ": choose a round or a flat face of one of them and take the offer to move it";
    body()->addWidget(make_note(words + ".", led == Led::Binds, this));
    if (!way || led != Led::NotYet) return;
    auto* buttons = new QWidget(this);
    auto* line = new QHBoxLayout(buttons);
    line->setContentsMargins(theme::margin, 4, theme::margin, 4);
    auto* lead = new QPushButton("Lead it along its way", buttons);
    lead->setObjectName("lead-along-way");
    connect(lead, &QPushButton::clicked, this, [this, contact] { lead_along_way(*session_, contact); });
    line->addWidget(lead);
    line->addStretch();
    body()->addWidget(buttons);
}

/// Where the active part stands in the assembly, apart from its drawing and its print pose.
void FitPanel::add_place() {
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    if (!part) return;
    body()->addWidget(make_heading("Where it stands", QString::fromStdString(part->name), this));
    auto add = [&](const QString& words, const char* id, std::array<std::string, 3> AssemblyPlace::*what, size_t k,
                   QuantityKind kind) {
        ValueRow row = make_value_row(words, "in the assembly; its drawing and its print pose stay", this);
        const std::string& text = (part->place.*what)[k];
        auto value = evaluate_expression(text, kind,
                                         session_->results().evaluation() ? session_->results().evaluation()->values
                                                                          : ParameterValues{});
        row.field->set_value(value ? QString::fromStdString(format_quantity(*value, kind))
                                   : QString::fromStdString(text),
                             QString::fromStdString(text));
        row.field->set_check([this, kind](const QString& typed) { return explain_typed(*session_, typed, kind); });
        connect(row.field, &ValueField::submitted, this,
                [this, id = part->id, what, k, field = row.field](const QString& typed) {
                    PartPtr now = session_->project()->part(id);
                    if (!now) return;
                    AssemblyPlace place = now->place;
                    (place.*what)[k] = typed.trimmed().toStdString();
                    QPointer<ValueField> alive(field);
                    auto wrong = session_->document().edit(SetPlace{id, place}, true);
                    if (!alive) return;
                    if (wrong)
                        field->refuse(QString::fromStdString(wrong->text()));
                    else
                        field->accept();
                });
        places_[id] = row.field;
        body()->addWidget(row.row);
    };
    const char* ids[] = {"at_x", "at_y", "at_z", "turn_x", "turn_y", "turn_z"};
    const char* moved[] = {"Moved in x", "Moved in y", "Moved in z"};
    const char* turned[] = {"Turned about x", "Turned about y", "Turned about z"};
    for (size_t k = 0; k < 3; ++k) add(moved[k], ids[k], &AssemblyPlace::at, k, QuantityKind::Length);
    for (size_t k = 0; k < 3; ++k) add(turned[k], ids[3 + k], &AssemblyPlace::turn, k, QuantityKind::Angle);
    if (part->place.is_home()) return;
    auto* home = new QPushButton("Back to where it was drawn", this);
    home->setObjectName("place-home");
    connect(home, &QPushButton::clicked, this, [this, id = part->id] { session_->document().edit(SetPlace{id, {}}); });
    body()->addWidget(home);
}

} // namespace lp
