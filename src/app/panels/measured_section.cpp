#include "app/panels/measured_section.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "fit/card_solver.h"
#include "project/sizes_to_measure.h"
#include <QDate>
#include <QPushButton>

namespace lp {

namespace {

QString mm(double value) {
    return as_shown(QString::fromStdString(format_fixed(value, 2) + " mm"));
}

/// "hole of 8.00 mm": of sizes with the same words the diameter tells them apart.
std::string called(const SizeToMeasure& size) {
    return size.round ? size.what + " of " + format_fixed(size.drawn_mm, 2) + " mm" : size.what;
}

void enter(Session* session, const MeasuredSize& size) {
    const Project& project = *session->project();
    auto learned = learn_from_measured(project.printer, project.fits, project.material, size);
    if (!learned) return session->say(QString::fromStdString(learned.error().text()), true);
    Edit edit = SetPrinter{*learned};
    edit.sentence = "Measured " + size.what + ": " + format_fixed(size.found_mm, 2) + " mm";
    session->document().edit(edit);
}

} // namespace

MeasuredSection::MeasuredSection(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    const PartPtr part = session->project()->part(session->workspace().active_part());
    column->addWidget(make_heading("Measured on a print",
                                   part ? QString::fromStdString(part->name) : QString("no part chosen"), this));
    if (part && !part->stand_in) add_sizes(*part, column);
    if (!fields_.empty())
        column->addWidget(
            make_note("Type what calipers say of the print: the card's growth and shrink follow.", false, this));
    add_history(column);
}

void MeasuredSection::add_sizes(const Part& part, QVBoxLayout* column) {
    const Evaluation* evaluation = session_->results().evaluation();
    const Analysis* analysis = session_->results().analysis();
    const PartResult* made = evaluation ? evaluation->part(part.id) : nullptr;
    const PartAnalysis* known = analysis ? analysis->part(part.id) : nullptr;
    if (!made || !known) return;
    for (const SizeToMeasure& size : sizes_to_measure(*made, *known, session_->project()->printer)) {
        if (size.by_layers) continue; // it tells nothing of the card
        const std::string what = part.name + ", " + called(size);
        ValueRow row = make_value_row(
            QString("%1, drawn %2").arg(QString::fromStdString(size.what).section(',', 0, 0), mm(size.drawn_mm)),
            QString("this printer should make it %1; type what calipers say").arg(mm(size.expected_mm)), this);
        const MeasuredSize* last = nullptr;
        for (const MeasuredSize& m : session_->project()->printer.measured)
            if (m.what == what) last = &m;
        make_quantity(session_, row.field, QuantityKind::Length);
        row.field->set_value(last ? mm(last->found_mm) : QString("not yet"), last ? mm(last->found_mm) : QString());
        connect(row.field, &ValueField::submitted, this, [this, size, what, field = row.field](const QString& typed) {
            const auto found = typed_number(*session_, typed.toStdString(), QuantityKind::Length);
            if (!found) return field->refuse(QString::fromStdString(found.error().text()));
            const MeasuredSize entry{.what = what,
                                     .date = QDate::currentDate().toString(Qt::ISODate).toStdString(),
                                     .drawn_mm = size.drawn_mm,
                                     .found_mm = *found,
                                     .hole = size.hole,
                                     .round = size.round};
            if (auto wrong = check_measured(entry)) return field->refuse(QString::fromStdString(wrong->text()));
            field->accept();
            enter(session_, entry);
        });
        fields_.push_back(row.field);
        column->addWidget(row.row);
    }
    if (fields_.empty())
        column->addWidget(make_note("This part has no sizes that calipers tell the printer by.", false, this));
}

void MeasuredSection::add_history(QVBoxLayout* column) {
    const auto& all = session_->project()->printer.measured;
    constexpr size_t shown = 4;
    for (size_t i = all.size(); i-- > 0 && i + shown + 1 > all.size();) {
        const MeasuredSize& m = all[i];
        column->addWidget(make_note(QString("%1: %2, %3 instead of %4; off the card by %5 a face.")
                                        .arg(QString::fromStdString(m.date), QString::fromStdString(m.what),
                                             mm(m.found_mm), mm(m.drawn_mm), mm(m.spread_mm)),
                                    false, this));
    }
    if (all.empty()) return;
    auto* forget = new QPushButton("Forget the last size", this);
    forget->setObjectName("forget-size");
    forget->setFlat(true);
    connect(forget, &QPushButton::clicked, this, [this] {
        const Project& project = *session_->project();
        PrinterCard card = project.printer;
        const MeasuredSize last = card.measured.back();
        card.measured.pop_back();
        Edit edit = SetPrinter{solved_card(std::move(card), project.fits, project.material)};
        edit.sentence = "Forgot " + last.what;
        session_->document().edit(edit);
    });
    column->addWidget(forget);
}

} // namespace lp
