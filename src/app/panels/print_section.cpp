#include "app/panels/print_section.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/widgets/flow_layout.h"
#include "base/text.h"
#include "project/card_store.h"
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QRadioButton>

namespace lp {
namespace {

/// "along x", "along 0.60, 0.80, 0.00": a pull has no side.
QString way_words(const Vec3& way) {
    for (int k = 0; k < 3; ++k)
        if (std::fabs(way[k]) > std::cos(radians(1.0))) return QString("along %1").arg("xyz"[k]);
    QStringList parts;
    for (int k = 0; k < 3; ++k) parts << QString::fromStdString(format_fixed(way[k], 2));
    return "along " + parts.join(", ");
}

/// A row of words with a button at its right.
QPushButton* add_line(Column* column, const QString& words, const QString& button) {
    auto* row = new QWidget(column);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 0, theme::margin, 0);
    auto* label = new QLabel(words, row);
    label->setWordWrap(true);
    auto* press = new QPushButton(button, row);
    press->setFlat(true);
    box->addWidget(label, 1);
    box->addWidget(press);
    column->body()->addWidget(row);
    return press;
}

void fill_materials(QMenu* menu, Session* session, PartId id) {
    menu->clear();
    const PartPtr part = session->project()->part(id);
    if (!part) return;
    auto add = [&](const QString& words, std::optional<MaterialCard> card) {
        QAction* entry = menu->addAction(words);
        entry->setCheckable(true);
        entry->setChecked(part->material == card);
        QObject::connect(entry, &QAction::triggered, session, [session, id, card] {
            session->document().edit(SetPartMaterial{id, card});
        });
    };
    add("The project's: " + QString::fromStdString(session->project()->material.name), std::nullopt);
    menu->addSeparator();
    const auto kept = CardStore().materials();
    for (const MaterialCard& card : kept) add(QString::fromStdString(card.name), card);
    if (!kept.empty()) return;
    menu->addAction("Keep material cards under Fit to choose from them here")->setEnabled(false);
}

void add_brim_places(Column* column, Session* session, const Part& part) {
    auto* row = new QWidget(column);
    auto* box = new FlowLayout(row, 10, 2);
    box->setContentsMargins(theme::margin, 2, theme::margin, 4);
    for (auto [place, words, hint] : {std::tuple(BrimPlace::Outside, "Round it", "round the outer outlines"),
                                      std::tuple(BrimPlace::Inside, "In holes", "inside its holes"),
                                      std::tuple(BrimPlace::Both, "Both", "round it and inside its holes"),
                                      std::tuple(BrimPlace::Corners, "At corners", "discs at the sharp corners")}) {
        auto* choice = new QRadioButton(words, row);
        choice->setToolTip(QString("The brim goes ") + hint);
        choice->setAccessibleDescription(QString("The brim goes ") + hint);
        choice->setChecked(part.supports.options.brim_place == place);
        QObject::connect(choice, &QRadioButton::clicked, session, [session, id = part.id, place = place] {
            const PartPtr now = session->project()->part(id);
            if (!now || now->supports.options.brim_place == place) return;
            SupportSettings next = now->supports;
            next.options.brim_place = place;
            session->document().edit(SetSupports{id, next});
        });
        box->addWidget(choice);
    }
    column->body()->addWidget(row);
}

QString cm3(const TriMesh& mesh) {
    return QString::fromStdString(format_number(mass_properties(mesh).volume_mm3 / 1000, 2)) + " cm³";
}

} // namespace

void add_use_rows(Column* column, Session* session, const Part& part) {
    const MaterialCard& material = material_of(*session->project(), part);
    auto* choose = add_line(column,
                            "Printed of " + QString::fromStdString(material.name) +
                                (part.material ? QString() : QString(", as the project")),
                            "Material …");
    choose->setToolTip("One of the kept material cards for this part alone: weight, price and shrinkage go by it");
    auto* menu = new QMenu(choose);
    QObject::connect(menu, &QMenu::aboutToShow, session,
                     [menu, session, id = part.id] { fill_materials(menu, session, id); });
    choose->setMenu(menu);
    if (part.load) {
        auto* off = add_line(column, "Pulled " + way_words(*part.load) + " of the design", "Forget");
        off->setAccessibleName("Forget which way it is pulled");
        QObject::connect(
            off, &QPushButton::clicked, session,
            [session, id = part.id] {
                session->document().edit(SetLoad{id, std::nullopt});
            },
            Qt::QueuedConnection);
    }
}

std::optional<Problem> add_stop(Session* session, PartId id, const std::string& typed) {
    const PartPtr part = session->project()->part(id);
    if (!part) return std::nullopt;
    const size_t comma = typed.find(',');
    StopByHand stop{trimmed(typed.substr(0, comma)),
                    comma == std::string::npos ? "" : trimmed(typed.substr(comma + 1))};
    auto stops = part->stops;
    stops.push_back(stop);
    return session->document().edit(SetStops{id, stops}, true);
}

/// "white from here: stops after layer 36, at 7.2 mm", as far as it is known.
static QString stop_words(Session* session, const Part& part, const StopByHand& stop) {
    const PartAnalysis* mine = session->results().analysis() ? session->results().analysis()->part(part.id) : nullptr;
    const auto at = typed_number(*session, stop.at, QuantityKind::Length);
    for (size_t i = 0; mine && at && i < mine->pauses.size(); ++i) {
        const PartPause& pause = mine->pauses[i];
        constexpr double a_layer_mm = 6; // the thickest there is
        if (pause.by_hand && pause.thing == stop.why && pause.pause.at_mm >= *at - 1e-6 &&
            pause.pause.at_mm <= *at + a_layer_mm)
            return as_shown(QString::fromStdString(pause.words()));
    }
    return QString::fromStdString((stop.why.empty() ? "" : stop.why + ": ") + "stops at " + stop.at);
}

void add_stop_rows(Column* column, Session* session, const Part& part) {
    for (size_t i = 0; i < part.stops.size(); ++i) {
        auto* off = add_line(column, stop_words(session, part, part.stops[i]), "Forget");
        off->setAccessibleName(QString("Forget stop %1 of the print").arg(i + 1));
        QObject::connect(
            off, &QPushButton::clicked, session,
            [session, id = part.id, stop = part.stops[i]] {
                const PartPtr now = session->project()->part(id);
                if (!now) return;
                auto stops = now->stops;
                const auto found = std::find(stops.begin(), stops.end(), stop);
                if (found == stops.end()) return;
                stops.erase(found);
                session->document().edit(SetStops{id, stops});
            },
            Qt::QueuedConnection);
    }
    ValueRow row = make_value_row("Stops by hand", "a height above its foot; why, after a comma", column);
    row.field->set_value(part.stops.empty() ? "none" : "one more", "");
    QObject::connect(row.field, &ValueField::submitted, column,
                     [session, id = part.id, field = row.field](const QString& typed) {
                         QPointer<ValueField> alive(field);
                         const auto wrong = add_stop(session, id, typed.toStdString());
                         if (!alive) return;
                         if (wrong) return field->refuse(QString::fromStdString(wrong->text()));
                         field->accept();
                     });
    column->body()->addWidget(row.row);
}

void add_foot_rows(Column* column, Session* session, const Part& part) {
    const SupportOptions& options = part.supports.options;
    const std::string key = "supports " + std::to_string(part.id.value) + " ";
    auto number = [&](const char* words, const char* hint, const char* name) {
        ValueRow row = make_value_row(words, hint, column);
        bind_number(session, row, key + name);
        column->body()->addWidget(row.row);
    };
    number("Raft, layers", "a flat body under everything, to be pulled off; 0: none", "raft_layers");
    if (options.raft_layers == 0) number("Brim", "width of a border one layer high round its foot; 0: none", "brim_mm");
    if (options.raft_layers == 0 && options.brim_mm > 0) {
        add_brim_places(column, session, part);
        number("Brim stands off by", "0: it touches and holds best", "brim_gap_mm");
    }
    const PartAnalysis* mine = session->results().analysis() ? session->results().analysis()->part(part.id) : nullptr;
    if (!mine || !part.supports.any()) return;
    auto say = [&](const QString& words, bool wrong) { column->body()->addWidget(make_note(words, wrong, column)); };
    if (options.raft_layers > 0)
        say(mine->supports.raft.empty() ? QString("Nothing lies on the bed for a raft.")
                                        : "The raft takes " + cm3(mine->supports.raft) +
                                              " and is exported as an object of its own; it takes a brim's place.",
            mine->supports.raft.empty());
    else if (options.brim_mm > 0)
        say(mine->supports.brim.empty()
                ? QString(options.brim_place == BrimPlace::Inside ? "It has no holes on the bed for a brim."
                          : options.brim_place == BrimPlace::Corners
                              ? "It has no sharp corners on the bed."
                              : "Nothing lies flat enough on the bed for a brim.")
                : "The brim takes " + cm3(mine->supports.brim) + " and is exported as an object of its own.",
            mine->supports.brim.empty());
}

} // namespace lp
