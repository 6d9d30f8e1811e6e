#include "app/panels/fit_panel.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "project/contact_words.h"
#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QSlider>
#include <QTimer>

namespace lp {

using theme::Role;

static QScrollArea* area_of(QWidget* column) {
    for (QWidget* w = column; w; w = w->parentWidget())
        if (auto* area = qobject_cast<QScrollArea*>(w)) return area;
    return nullptr;
}

/// What was asked for stands at the top, wherever one had scrolled to.
static void scroll_to_top(QWidget* column) {
    if (auto* area = area_of(column)) QTimer::singleShot(0, area, [area] { area->verticalScrollBar()->setValue(0); });
}

FitPanel::FitPanel(Session* session, QWidget* parent) : Column(parent), session_(session) {
    setAccessibleName("Contacts and printer card");
    connect(&session->document(), &Document::project_changed, this, &FitPanel::refresh);
    for (auto fact : {&Workspace::selection_changed, &Workspace::active_part_changed, &Workspace::contact_changed})
        connect(&session->workspace(), fact, this, &FitPanel::refresh);
    connect(&session->results(), &Results::analysed, this, &FitPanel::refresh);
    connect(&session->results(), &Results::movement_checked, this, &FitPanel::refresh);
    connect(&session->workspace(), &Workspace::gauge_changed, this, &FitPanel::refresh);
    connect(&session->taken_apart(), &TakenApart::ordered, this, &FitPanel::refresh);
    connect(&session->document(), &Document::edited, this, [this](const Edit& edit) {
        for (const SingleEdit& one : edit.parts)
            if (one.get_if<AddMovement>()) led_first_ = led_new_ = true;
    });
    connect(&session->workspace(), &Workspace::stretch_changed, this, [this] {
        if (session_->workspace().stretch() != Stretch::Fit) led_first_ = false;
    });
    refresh();
}

ValueField* FitPanel::fit_field(const std::string& name) const {
    auto found = fits_.find(name);
    return found == fits_.end() ? nullptr : found->second;
}

void FitPanel::rebuild() {
    for (ValueField* field : findChildren<ValueField*>())
        if (field->editing()) return; // never pull an editor from under the fingers
    if (ruler_ && ruler_->is_held()) return;
    if (assembly_ && assembly_->slider() && assembly_->slider()->isSliderDown()) return;
    for (ContactRow* row : contacts_)
        if (row->is_held()) return;
    // A row that was made a moment ago takes the focus only once it is shown: until then the column holds it.
    QWidget* focus = QApplication::focusWidget();
    on_contact_ = std::count(contacts_.begin(), contacts_.end(), focus) > 0 || (on_contact_ && focus == this);
    on_ruler_ = (ruler_ && focus == ruler_) || (on_ruler_ && focus == this);
    if (ruler_) chosen_fit_ = ruler_->chosen();
    clear();
    contacts_.clear();
    fits_.clear();
    places_.clear();
    // What was asked for stands where it is seen.
    const bool putting_together = session_->taken_apart().is_wanted();
    if (putting_together) add_assembly();
    if (putting_together && !together_) scroll_to_top(this);
    together_ = putting_together;
    if (led_first_) add_movements();
    add_contacts();
    if (!led_first_) add_movements();
    if (!putting_together) add_assembly();
    add_place();
    add_fits();
    gauges_ = new GaugeSection(session_, this);
    body()->addWidget(gauges_);
    measured_ = new MeasuredSection(session_, this);
    body()->addWidget(measured_);
    cards_ = new CardSection(session_, this);
    body()->addWidget(cards_);
    body()->addStretch();
}

/// Where a movement is to end is typed as soon as it is there.
void FitPanel::add_movements() {
    movements_ = new MovementSection(session_, this);
    body()->addWidget(movements_);
    if (!led_new_ || !isVisible()) return;
    scroll_to_top(this);
    QTimer::singleShot(1, movements_, [this] {
        led_new_ = false;
        ValueField* end = movements_->field(session_->project()->movements.size() - 1, "to");
        if (!end) return; // it has legs
        end->take_hand();
        if (auto* area = area_of(this)) area->ensureWidgetVisible(end, 0, 200);
    });
}

void FitPanel::add_assembly() {
    assembly_ = new AssemblySection(session_, this);
    body()->addWidget(assembly_);
    auto type = [this] {
        if (assembly_ && assembly_->way_field() && session_->workspace().active_part() == way_of_) {
            way_of_ = {};
            assembly_->way_field()->begin_edit();
        }
    };
    connect(assembly_, &AssemblySection::way_wanted, this, [this, type](PartId part) {
        way_of_ = part;
        session_->workspace().set_active_part(part);
        type(); // it may be the active one already
    });
    if (way_of_) QTimer::singleShot(0, assembly_, type); // once it is shown
}

/// The rule, and every contact on its scale.
void FitPanel::add_contacts() {
    const Analysis* analysis = session_->results().analysis();
    int open = 0, unset = 0;
    if (analysis)
        for (const ContactResult& c : analysis->contacts) open += c.open(), unset += c.state == FitState::Unset;
    size_t count = analysis ? analysis->contacts.size() : 0;
    // As the tape counts them: what nobody wanted anything of, and is free, is nothing to settle.
    const QString state = open ? QString("%1 to settle").arg(open) : unset ? "none to settle" : "all as wanted";
    body()->addWidget(make_heading("Gaps and contacts", QString("%1, %2").arg(count).arg(state), this));
    ruler_ = new GapRuler(session_, this);
    ruler_->choose(chosen_fit_);
    connect(ruler_, &GapRuler::let_go, this, &FitPanel::refresh, Qt::QueuedConnection);
    body()->addWidget(ruler_);
    if (on_ruler_) ruler_->setFocus();
    if (!count)
        body()->addWidget(make_note(
            "Nothing comes near anything yet. Cut a part with another at a fit, and the gap is measured here.", false,
            this));
    if (count) add_print_button();
    for (size_t i = 0; i < count; ++i) {
        const ContactResult& c = analysis->contacts[i];
        QString below = QString::fromStdString(contact_words(*session_->project(), c)),
                warning = QString::fromStdString(contact_warning(c));
        if (!warning.isEmpty()) below = warning + " · " + below;
        if (const PrintedContact* now = printed(c))
            below = as_shown(QString::fromStdString(printed_words(*now))) + " · " + below; // the end may be cut off
        const Led led = session_->results().led_of(c);
        auto* row = new ContactRow(session_, c, below, this);
        if (const PrintedContact* now = printed(c))
            row->set_printed(now->gap_mm, printed_state(*now, c, session_->project()->printer));
        row->set_active(session_->workspace().active_contact() == c.ref());
        const bool named = find_fit(session_->project()->fits, c.fit) != nullptr;
        row->set_help(session_, named ? "fit:" + QString::fromStdString(c.fit) : QString("fit"));
        connect(
            row, &MarkRow::chosen, session_, [s = session_, ref = c.ref()] { s->workspace().set_active_contact(ref); },
            Qt::QueuedConnection);
        connect(row, &ContactRow::let_go, this, &FitPanel::refresh, Qt::QueuedConnection);
        contacts_.push_back(row);
        body()->addWidget(row);
        if (on_contact_ && session_->workspace().active_contact() == c.ref()) row->setFocus();
        if (!led_words(led).empty() && session_->workspace().active_contact() == c.ref()) add_led(c, led);
    }
}

const PrintedContact* FitPanel::printed(const ContactResult& contact) const {
    if (printed_of_ != session_->project()) return nullptr;
    const auto found =
        std::find_if(printed_.begin(), printed_.end(), [&](const PrintedContact& p) { return p.ref == contact.ref(); });
    return found == printed_.end() ? nullptr : &*found;
}

void FitPanel::add_print_button() {
    auto* line = new QWidget(this);
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(theme::margin, 4, theme::margin, 4);
    print_ = new QPushButton("Measure as printed", line);
    print_->setObjectName("measure-printed");
    print_->setToolTip(
        "Prints every part of a contact in practice and measures the gaps that are left: what is assumed "
        "beyond the printer card is told by Print in practice");
    connect(print_, &QPushButton::clicked, this, &FitPanel::print_contacts);
    row->addWidget(print_);
    row->addStretch();
    body()->addWidget(line);
}

void FitPanel::print_contacts() {
    const Results& results = session_->results();
    if (!results.evaluation_is_current() || !results.analysis_is_current())
        return session_->say("The parts are still being made. Measure in a moment.", true);
    session_->worker().start(
        Lane::Asked, "printed contacts",
        [this, evaluation = *results.evaluation(), analysis = *results.analysis()](const Task& task) {
            auto found = printed_contacts(evaluation, analysis, task);
            session_->worker().post([this, of = evaluation.project, found = std::move(found)]() mutable {
                if (!found) {
                    if (found.error().code != ProblemCode::Cancelled)
                        session_->say(QString::fromStdString(found.error().text()), true);
                    return;
                }
                printed_ = std::move(*found);
                printed_of_ = of;
                const auto stuck = std::count_if(printed_.begin(), printed_.end(),
                                                 [](const PrintedContact& p) { return p.gap_mm <= 0; });
                session_->say(QString("Measured %1 contacts as a practice print leaves them%2.")
                                  .arg(printed_.size())
                                  .arg(stuck ? QString("; %1 without a gap").arg(stuck) : QString()));
                refresh();
            });
        });
}

/// The gaps of the named fits as a table, folded away until it is wanted: the rule says the same.
void FitPanel::add_fits() {
    QStringList sum;
    for (const NamedFit& fit : session_->project()->fits)
        sum << QString::fromStdString(fit.name + " " + format_fixed(fit.gap_mm, 2) + " mm");
    if (!add_fold("Fits", sum.join(", "), "fold-fits", fits_open_)) return;
    for (const NamedFit& fit : session_->project()->fits) {
        ValueRow row = make_value_row(QString::fromStdString(fit.name), QString::fromStdString(fit.source), this);
        bind_number(session_, row, "fit " + fit.name);
        fits_[fit.name] = row.field;
        body()->addWidget(row.row);
    }
}

bool FitPanel::add_fold(const QString& title, const QString& told, const char* name, bool& open) {
    const QString sum = as_shown(told);
    auto* fold = new QPushButton(this);
    fold->setFlat(true);
    fold->setObjectName(name);
    fold->setAccessibleName(title + (open ? ", open" : ", folded: " + sum));
    auto* line = new QHBoxLayout(fold);
    line->setContentsMargins(theme::margin, 4, theme::margin, 4);
    auto* words =
        new QLabel(QString("<span style='font-weight:800'>%1 %2</span>&nbsp;&nbsp;<span style='color:%3'>%4</span>")
                       .arg(open ? "▾" : "▸", title, theme::css(Role::SoftInk), open ? QString() : sum),
                   fold);
    words->setWordWrap(true);
    words->setAttribute(Qt::WA_TransparentForMouseEvents);
    line->addWidget(words, 1);
    fold->setMinimumHeight(words->heightForWidth(theme::left_width - 3 * theme::margin) + 8);
    connect(fold, &QPushButton::clicked, this, [this, &open, name] {
        open = !open;
        rebuild();
        if (auto all = findChildren<QPushButton*>(name); !all.isEmpty()) all.last()->setFocus(); // the one made now
    });
    body()->addWidget(fold);
    return open;
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

} // namespace lp
