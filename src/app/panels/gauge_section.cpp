#include "app/panels/gauge_section.h"
#include "app/theme/theme.h"
#include "fit/card_solver.h"
#include "project/gauge_part.h"
#include <QDate>
#include <QMenu>
#include <QPushButton>

namespace lp {

void add_gauge_part(Session* session, const GaugeLadder& ladder) {
    auto part = gauge_part(ladder);
    if (!part) return session->say(QString::fromStdString(part.error().text()), true);
    part->name = free_part_name(*session->project(), part->name);
    // Beside what is there already, so that it can be seen.
    if (const Evaluation* evaluation = session->results().evaluation()) {
        Box3 all;
        for (const PartResult& made : evaluation->parts)
            if (made.mesh) all.extend(made.box.transformed(made.place));
        if (!all.isEmpty()) part->place.at[1] = format_number(std::floor(all.min().y() - 40)) + " mm";
    }
    Edit edit = AddPart{*part};
    edit.sentence = "Added the gauge " + part->name;
    if (!session->document().edit(edit)) session->workspace().set_active_part(session->project()->parts.back()->id);
}

void enter_felt(Session* session, PartId id, const std::string& fit, int number) {
    PartPtr part = session->project()->part(id);
    if (!part || !part->gauge) return;
    const GaugeLadder& ladder = *part->gauge;
    PrinterCard card = session->project()->printer;
    GaugeResult entry;
    entry.date = QDate::currentDate().toString(Qt::ISODate).toStdString();
    entry.contact = ladder.contact;
    entry.nominal_mm = ladder.nominal_mm;
    entry.from_mm = ladder.from_mm;
    entry.to_mm = ladder.to_mm;
    entry.count = ladder.count;
    // A second number of the same coupon on the same day joins the first.
    if (!card.gauges.empty()) {
        GaugeResult last = card.gauges.back(), same = entry;
        same.felt = last.felt;
        same.spread_mm = last.spread_mm;
        if (last == same) {
            entry.felt = last.felt;
            card.gauges.pop_back();
        }
    }
    entry.felt[fit] = number;
    auto learned = learn_from_gauge(card, session->project()->fits, session->project()->material, entry);
    if (!learned) return session->say(QString::fromStdString(learned.error().text()), true);
    Edit edit = SetPrinter{*learned};
    edit.sentence = "Entered " + part->name + ": number " + std::to_string(number) + " feels " + fit;
    session->document().edit(edit);
}

GaugeSection::GaugeSection(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(make_heading("Gauge", "learns from the printer", this));
    add_ladder_fields(column);
    for (const PartPtr& part : session->project()->parts)
        if (part->gauge) add_gauge(*part, column);
    const auto& history = session->project()->printer.gauges;
    for (size_t i = history.size(); i-- > 0 && i + 5 > history.size();) {
        const GaugeResult& g = history[i];
        QStringList felt;
        for (const auto& [fit, number] : g.felt)
            felt << QString("%1 was %2").arg(number).arg(QString::fromStdString(fit));
        const GaugeContact* contact = find_gauge_contact(g.contact);
        column->addWidget(make_note(QString("%1: %2 %3 mm, %4; spread %5 mm.")
                                        .arg(QString::fromStdString(g.date), contact ? contact->title : "gauge",
                                             QString::fromStdString(format_number(g.nominal_mm, 2)), felt.join(", "),
                                             two_places(g.spread_mm)),
                                    false, this));
    }
    if (!history.empty()) {
        auto* forget = new QPushButton("Forget the last result", this);
        forget->setFlat(true);
        connect(forget, &QPushButton::clicked, this, [this] {
            PrinterCard card = session_->project()->printer;
            GaugeResult last = card.gauges.back();
            card.gauges.pop_back();
            card = solved_card(std::move(card), session_->project()->fits, session_->project()->material);
            Edit edit = SetPrinter{card};
            edit.sentence = "Forgot the gauge of " + last.date;
            session_->document().edit(edit);
        });
        column->addWidget(forget);
    }
}

/// What the next coupon is like, and the button that adds it.
void GaugeSection::add_ladder_fields(QVBoxLayout* column) {
    const GaugeLadder ladder = session_->workspace().next_gauge();
    const GaugeContact* contact = find_gauge_contact(ladder.contact);
    ValueRow kind = make_value_row("For a", "what the coupon tries", this);
    kind.field->set_value(QString(contact->title).toLower(), contact->title);
    kind.field->set_menu([this, kind](ValueField* field) {
        auto* menu = new QMenu(field);
        menu->setAttribute(Qt::WA_DeleteOnClose);
        for (const GaugeContact& one : gauge_contacts())
            connect(menu->addAction(one.title), &QAction::triggered, this, [this, one, kind] {
                GaugeLadder next = session_->workspace().next_gauge();
                next.contact = one.id;
                next.nominal_mm = one.standard_mm;
                session_->workspace().set_next_gauge(next);
            });
        menu->popup(field->mapToGlobal(QPoint(0, field->height())));
    });
    column->addWidget(kind.row);
    auto number = [&](const QString& words, const QString& hint, double GaugeLadder::*what) {
        ValueRow row = make_value_row(words, hint, this);
        bind_number(session_, row, ladder.*what, QuantityKind::Length, {}, [this, what](const std::string& typed) {
            GaugeLadder next = session_->workspace().next_gauge();
            const auto value = typed_number(*session_, typed, QuantityKind::Length);
            if (!value) return std::optional(value.error());
            next.*what = *value;
            if (auto wrong = check_ladder(next)) return wrong;
            session_->workspace().set_next_gauge(next);
            return std::optional<Problem>();
        });
        column->addWidget(row.row);
    };
    number(QString("Its ") + contact->nominal, contact->nominal, &GaugeLadder::nominal_mm);
    number("Gap of number 1", "a face; the tightest", &GaugeLadder::from_mm);
    number("Gap of the last", "a face; the loosest", &GaugeLadder::to_mm);
    ValueRow count = make_value_row("Numbers", "steps on the coupon", this);
    bind_number(session_, count, ladder.count, QuantityKind::Count, {}, [this](const std::string& typed) {
        GaugeLadder next = session_->workspace().next_gauge();
        const auto value = typed_number(*session_, typed, QuantityKind::Count);
        if (!value) return std::optional(value.error());
        next.count = int(*value);
        if (auto wrong = check_ladder(next)) return wrong;
        session_->workspace().set_next_gauge(next);
        return std::optional<Problem>();
    });
    column->addWidget(count.row);
    add_ = new QPushButton("Add this gauge", this);
    add_->setObjectName("add-gauge");
    connect(add_, &QPushButton::clicked, this,
            [this] { add_gauge_part(session_, session_->workspace().next_gauge()); });
    auto* line = new QWidget(this);
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(theme::margin, 4, theme::margin, 4);
    row->addWidget(add_);
    row->addStretch();
    column->addWidget(line);
}

/// A coupon in the project: which number felt like which fit.
void GaugeSection::add_gauge(const Part& part, QVBoxLayout* column) {
    const GaugeLadder& ladder = *part.gauge;
    const GaugeContact* contact = find_gauge_contact(ladder.contact);
    QStringList gaps;
    for (int k = 1; k <= ladder.count; ++k) gaps << QString("%1 = %2").arg(k).arg(two_places(ladder.gap_at(k)));
    column->addWidget(make_heading(QString::fromStdString(part.name), "", this));
    column->addWidget(make_note(QString("%1 mm. Print it, %2, and enter the number that felt like a fit.")
                                    .arg(gaps.join(", "), contact ? contact->how : ""),
                                false, this));
    const GaugeResult* last = nullptr;
    for (const GaugeResult& g : session_->project()->printer.gauges)
        if (g.contact == ladder.contact && g.nominal_mm == ladder.nominal_mm && g.count == ladder.count) last = &g;
    std::vector<std::string> fits;
    if (ladder.contact == "hinge")
        fits = {"in-place"};
    else
        for (const NamedFit& fit : session_->project()->fits)
            if (fit.name != "in-place") fits.push_back(fit.name);
    for (const std::string& fit : fits) {
        ValueRow row = make_value_row(QString("Feels ") + QString::fromStdString(fit), "number on the coupon", this);
        bool there = last && last->felt.count(fit);
        QString shown = there ? QString::number(last->felt.at(fit)) : QString("–");
        row.field->set_value(shown, there ? shown : QString());
        connect(row.field, &ValueField::submitted, this,
                [this, id = part.id, fit, field = row.field](const QString& typed) {
                    bool ok = false;
                    int number = typed.trimmed().toInt(&ok);
                    if (!ok) return field->refuse("Type the number on the coupon.");
                    field->accept();
                    enter_felt(session_, id, fit, number);
                });
        if (!felt_.count(fit)) felt_[fit] = row.field;
        column->addWidget(row.row);
    }
}

ValueField* GaugeSection::felt_field(const std::string& fit) const {
    auto found = felt_.find(fit);
    return found == felt_.end() ? nullptr : found->second;
}

} // namespace lp
