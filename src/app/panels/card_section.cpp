#include "app/panels/card_section.h"
#include "app/theme/theme.h"
#include "hardware/iso286.h"
#include "project/card_store.h"
#include <QMenu>
#include <QPushButton>

namespace lp {

namespace {

/// A row with a name that is typed and a menu of the maker's kept cards.
template <class Card, class Kept, class Take>
QPushButton* cards_button(Session* session, QWidget* parent, const Card& now, Kept kept, Take take) {
    auto* button = new QPushButton("Cards …", parent);
    button->setFlat(true);
    auto* menu = new QMenu(button);
    QObject::connect(menu, &QMenu::aboutToShow, button, [menu, button, session, now, kept, take] {
        menu->clear();
        QObject::connect(menu->addAction("Keep this card"), &QAction::triggered, button, [session, now] {
            auto wrong = CardStore().keep(now);
            session->say(wrong ? QString::fromStdString(wrong->text())
                               : "Kept " + QString::fromStdString(now.name) + " in " +
                                     QString::fromStdString(CardStore().folder().string()) + ".",
                         wrong.has_value());
        });
        menu->addSeparator();
        for (const Card& card : kept())
            QObject::connect(menu->addAction("Use " + QString::fromStdString(card.name)), &QAction::triggered, button,
                             [take, card] { take(card); });
    });
    button->setMenu(menu);
    return button;
}

} // namespace

CardSection::CardSection(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    add_printer(column);
    add_material(column);
    add_metal(column);
}

ValueField* CardSection::field(const std::string& name) const {
    auto found = fields_.find(name);
    return found == fields_.end() ? nullptr : found->second;
}

void CardSection::add_printer(QVBoxLayout* column) {
    const PrinterCard& card = session_->project()->printer;
    column->addWidget(make_heading("Printer card", QString::fromStdString(card.name), this));
    ValueRow name = make_value_row("Name", "cards are kept by it", this);
    name.field->set_value(QString::fromStdString(card.name), QString::fromStdString(card.name));
    connect(name.field, &ValueField::submitted, this, [this, field = name.field](const QString& typed) {
        if (typed.trimmed().isEmpty()) return field->refuse("A card needs a name.");
        field->accept();
        PrinterCard next = session_->project()->printer;
        next.name = typed.trimmed().toStdString();
        session_->document().edit(SetPrinter{next});
    });
    fields_["name"] = name.field;
    column->addWidget(name.row);
    struct Line {
        const char *key, *name, *hint;
        double PrinterCard::*value;
        QuantityKind kind;
    };
    static const Line lines[] = {
        {"outside_growth_mm", "Outside faces grow", "each face stands out by this when printed",
         &PrinterCard::outside_growth_mm, QuantityKind::Length},
        {"hole_shrink_mm", "Holes shrink", "each wall of a hole stands in by this", &PrinterCard::hole_shrink_mm,
         QuantityKind::Length},
        {"lying_sag_mm", "Roofs of lying holes sag", "added to gaps of round holes on their side",
         &PrinterCard::lying_sag_mm, QuantityKind::Length},
        {"first_layer_flare_mm", "First layer flares", "it stands out by this", &PrinterCard::first_layer_flare_mm,
         QuantityKind::Length},
        {"smallest_open_gap_mm", "Smallest open gap, upright", "narrower ones fuse between upright faces",
         &PrinterCard::smallest_open_gap_mm, QuantityKind::Length},
        {"smallest_open_gap_lying_mm", "Smallest open gap, lying",
         "narrower ones fuse between faces one above the other", &PrinterCard::smallest_open_gap_lying_mm,
         QuantityKind::Length},
        {"overhang_limit_deg", "Hangs without support up to", "degrees from vertical", &PrinterCard::overhang_limit_deg,
         QuantityKind::Angle},
        {"bridge_limit_mm", "Bridges up to", "a free span", &PrinterCard::bridge_limit_mm, QuantityKind::Length},
        {"nozzle_mm", "Nozzle", "width of the opening", &PrinterCard::nozzle_mm, QuantityKind::Length},
        {"line_width_mm", "Line width", "0 for 1.125 times the nozzle", &PrinterCard::line_width_mm,
         QuantityKind::Length},
        {"layer_height_mm", "Layer height", "of all layers but the first", &PrinterCard::layer_height_mm,
         QuantityKind::Length},
        {"infill_percent", "Infill, percent", "of the inside", &PrinterCard::infill_percent, QuantityKind::Number},
    };
    for (const Line& line : lines) {
        QString hint = QString(line.hint) + " · " + QString::fromStdString(card.source_of(line.key));
        ValueRow row = make_value_row(line.name, hint, this);
        bind_number(session_, row, card.*line.value, line.kind, [this, member = line.value](double value) {
            PrinterCard next = session_->project()->printer;
            next.*member = value;
            return session_->document().edit(SetPrinter{next}, true);
        });
        fields_[line.key] = row.field;
        column->addWidget(row.row);
    }
    if (!card.hole_shrinks.empty()) {
        QStringList table;
        for (const HoleShrink& h : card.hole_shrinks)
            table << QString::fromStdString("by " + format_fixed(h.shrink_mm, 2) + " mm at ⌀ " +
                                            format_number(h.diameter_mm, 1) + " mm");
        column->addWidget(make_note("Round holes shrink " + table.join("; ") + ".", false, this));
    }
    column->addWidget(cards_button(
        session_, this, card, [] { return CardStore().printers(); },
        [this](const PrinterCard& chosen) { session_->document().edit(SetPrinter{chosen}); }));
    column->addWidget(make_note("The fits above are for a printer with 0.1 mm growth and 0.1 mm shrink a face; what "
                                "this one does more or less is added to every gap.",
                                false, this));
}

void CardSection::add_material(QVBoxLayout* column) {
    const MaterialCard& card = session_->project()->material;
    column->addWidget(make_heading("Material card", QString::fromStdString(card.name), this));
    ValueRow name = make_value_row("Name", "cards are kept by it", this);
    name.field->set_value(QString::fromStdString(card.name), QString::fromStdString(card.name));
    connect(name.field, &ValueField::submitted, this, [this, field = name.field](const QString& typed) {
        if (typed.trimmed().isEmpty()) return field->refuse("A card needs a name.");
        field->accept();
        MaterialCard next = session_->project()->material;
        next.name = typed.trimmed().toStdString();
        session_->document().edit(SetMaterial{next});
    });
    column->addWidget(name.row);
    auto number = [&](const char* key, const QString& words, const QString& hint, double MaterialCard::*what,
                      QuantityKind kind) {
        ValueRow row = make_value_row(words, hint, this);
        bind_number(session_, row, card.*what, kind, [this, what](double value) {
            MaterialCard next = session_->project()->material;
            next.*what = value;
            return session_->document().edit(SetMaterial{next}, true);
        });
        fields_[key] = row.field;
        column->addWidget(row.row);
    };
    number("density_g_cm3", "Density, g/cm³", "of the filament", &MaterialCard::density_g_cm3, QuantityKind::Number);
    number("price_per_kg", "Price a kilogram", "in your money", &MaterialCard::price_per_kg, QuantityKind::Number);
    number("filament_mm", "Filament", "across", &MaterialCard::filament_mm, QuantityKind::Length);
    for (const NamedFit& fit : session_->project()->fits) {
        auto own = card.fits.find(fit.name);
        ValueRow row = make_value_row(QString::fromStdString(fit.name) + " with it",
                                      "gap a face with this material; empty for the table's", this);
        QString shown = own == card.fits.end() ? QString("as the table")
                                               : QString::fromStdString(format_fixed(own->second, 2) + " mm");
        row.field->set_quantity(QuantityKind::Length);
        row.field->set_value(shown, own == card.fits.end() ? QString() : shown);
        connect(row.field, &ValueField::submitted, this,
                [this, name = fit.name, field = row.field](const QString& typed) {
                    MaterialCard next = session_->project()->material;
                    if (typed.trimmed().isEmpty()) {
                        next.fits.erase(name);
                    } else {
                        auto gap = evaluate_expression(typed.toStdString(), QuantityKind::Length, {});
                        if (!gap) return field->refuse(QString::fromStdString(gap.error().text()));
                        next.fits[name] = *gap;
                    }
                    if (auto wrong = check_card(next)) return field->refuse(QString::fromStdString(wrong->text()));
                    field->accept();
                    session_->document().edit(SetMaterial{next});
                });
        fields_["material " + fit.name] = row.field;
        column->addWidget(row.row);
    }
    column->addWidget(cards_button(
        session_, this, card, [] { return CardStore().materials(); },
        [this](const MaterialCard& chosen) { session_->document().edit(SetMaterial{chosen}); }));
}

/// Hole and shaft classes of bought metal parts.
void CardSection::add_metal(QVBoxLayout* column) {
    column->addWidget(make_heading("Bought metal parts", "ISO 286", this));
    QString asked = session_->property("metal_fit").toString(); // stays while the window lives
    if (asked.isEmpty()) asked = "8 H7/g6";
    ValueRow row = make_value_row("Fit", "nominal diameter, hole, shaft: 8 H7/g6", this);
    row.field->set_value(asked, asked);
    auto* says = make_note("", false, this);
    auto answer = [says](const QString& text) {
        auto fit = iso_fit(text.toStdString());
        says->setText(as_shown(fit ? iso_fit_words(*fit) : fit.error().text()));
        return fit.has_value();
    };
    answer(asked);
    connect(row.field, &ValueField::submitted, this, [this, answer, field = row.field](const QString& typed) {
        auto fit = iso_fit(typed.toStdString());
        if (!fit) return field->refuse(QString::fromStdString(fit.error().text()));
        session_->setProperty("metal_fit", typed.trimmed());
        field->accept();
        field->set_value(typed.trimmed(), typed.trimmed());
        answer(typed.trimmed());
    });
    fields_["metal"] = row.field;
    column->addWidget(row.row);
    column->addWidget(says);
}

} // namespace lp
