#include "app/panels/card_section.h"
#include "app/panels/print_times.h"
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
    };
    static const Line lines[] = {
        {"outside_growth_mm", "Outside faces grow", "each face stands out by this when printed"},
        {"hole_shrink_mm", "Holes shrink", "each wall of a hole stands in by this"},
        {"lying_sag_mm", "Roofs of lying holes sag", "added to gaps of round holes on their side"},
        {"first_layer_flare_mm", "First layer flares", "it stands out by this"},
        {"smallest_open_gap_mm", "Smallest open gap, upright", "narrower ones fuse between upright faces"},
        {"smallest_open_gap_lying_mm", "Smallest open gap, lying",
         "narrower ones fuse between faces one above the other"},
        {"overhang_limit_deg", "Hangs without support up to", "degrees from vertical"},
        {"bridge_limit_mm", "Bridges up to", "a free span"},
        {"head_reach_mm", "Head reaches out", "round the nozzle: how far things printed one after another stand apart"},
        {"head_passes_mm", "Head passes over", "things as tall as this that are printed already"},
        {"nozzle_mm", "Nozzle", "width of the opening"},
        {"line_width_mm", "Line width", "0 for 1.125 times the nozzle"},
        {"layer_height_mm", "Layer height", "of all layers but the first"},
        {"infill_percent", "Infill, percent", "of the inside"},
        {"skirt_loops", "Skirt, loops", "round everything in the first layer, so that the plastic flows; 0: none"},
        {"power_w", "Power while printing, W", "on average"},
        {"price_per_kwh", "Price of a kWh", "in your money"},
    };
    for (const Line& line : lines) {
        QString hint = QString(line.hint) + " · " + QString::fromStdString(card.source_of(line.key));
        ValueRow row = make_value_row(line.name, hint, this);
        bind_number(session_, row, std::string("printer ") + line.key);
        fields_[line.key] = row.field;
        column->addWidget(row.row);
    }
    add_infill(column);
    times_ = new PrintTimes(session_, this);
    column->addWidget(times_);
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

void CardSection::add_infill(QVBoxLayout* column) {
    ValueRow row = make_value_row("Infill, laid as", "lines that turn from layer to layer, a grid, or waves", this);
    const QString now = word_of(session_->project()->printer.infill);
    row.field->set_value(now, now);
    row.field->set_menu([this](ValueField* field) {
        auto* menu = new QMenu(field);
        menu->setAttribute(Qt::WA_DeleteOnClose);
        for (int i = 0; i < infills; ++i)
            connect(menu->addAction(word_of(Infill(i))), &QAction::triggered, session_, [session = session_, i] {
                PrinterCard card = session->project()->printer;
                card.infill = Infill(i);
                Edit edit = SetPrinter{card};
                edit.sentence = std::string("Infill laid as ") + word_of(card.infill);
                session->document().edit(edit);
            });
        menu->popup(field->mapToGlobal(QPoint(0, field->height())));
    });
    fields_["infill"] = row.field;
    column->addWidget(row.row);
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
    auto number = [&](const char* key, const QString& words, const QString& hint) {
        ValueRow row = make_value_row(words, hint, this);
        bind_number(session_, row, std::string("material ") + key);
        fields_[key] = row.field;
        column->addWidget(row.row);
    };
    number("density_g_cm3", "Density, g/cm³", "of the filament");
    number("price_per_kg", "Price a kilogram", "in your money");
    number("filament_mm", "Filament", "across");
    number("shrink_percent", "Shrinks along the bed, percent",
           "parts are exported larger by it, so that they come out as drawn");
    number("shrink_up_percent", "Shrinks upward, percent", "the same across the layers");
    number("modulus_mpa", "Modulus, MPa", "of elasticity, printed, along its lines: what bending it takes");
    number("strain_percent", "May be bent by, percent",
           "strain it stands again and again: snaps and hinges are told by it");
    for (const NamedFit& fit : session_->project()->fits) {
        auto own = card.fits.find(fit.name);
        ValueRow row = make_value_row(QString::fromStdString(fit.name) + " with it",
                                      "gap a face with this material; empty for the table's", this);
        QString shown = own == card.fits.end() ? QString("as the table")
                                               : QString::fromStdString(format_fixed(own->second, 2) + " mm");
        const std::string key = "material fit " + fit.name;
        const auto formula = session_->project()->formulas.find(key);
        make_quantity(session_, row.field, QuantityKind::Length);
        row.field->set_value(shown, own == card.fits.end() ? QString()
                                    : formula != session_->project()->formulas.end()
                                        ? QString::fromStdString(formula->second)
                                        : shown);
        connect(row.field, &ValueField::submitted, this,
                [this, key, name = fit.name, field = row.field](const QString& typed) {
                    MaterialCard next = session_->project()->material;
                    next.fits.erase(name);
                    const Edit edit = typed.trimmed().isEmpty() ? Edit(SetMaterial{next})
                                                                : Edit(SetNumber{key, typed.trimmed().toStdString()});
                    QPointer<ValueField> alive(field);
                    const auto wrong = session_->document().edit(edit, true);
                    if (!alive) return;
                    if (wrong) return field->refuse(QString::fromStdString(wrong->text()));
                    field->accept();
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
