#include "app/panels/print_section.h"
#include "app/panels/typed_lines.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/widgets/flow_layout.h"
#include "base/text.h"
#include "project/card_store.h"
#include "project/layer_heights.h"
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
    auto* choose = add_line(column, column->body(),
                            "Printed of " + QString::fromStdString(material.name) +
                                (part.material ? QString() : QString(", as the project")),
                            "Material …");
    choose->setToolTip("One of the kept material cards for this part alone: weight, price and shrinkage go by it");
    auto* menu = new QMenu(choose);
    QObject::connect(menu, &QMenu::aboutToShow, session,
                     [menu, session, id = part.id] { fill_materials(menu, session, id); });
    choose->setMenu(menu);
    if (part.load) {
        auto* off = add_line(column, column->body(), "Pulled " + way_words(*part.load) + " of the design", "Forget");
        off->setAccessibleName("Forget which way it is pulled");
        QObject::connect(
            off, &QPushButton::clicked, session,
            [session, id = part.id] {
                session->document().edit(SetLoad{id, std::nullopt});
            },
            Qt::QueuedConnection);
    }
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

namespace {

StopByHand stop_typed(const std::string& typed) {
    const size_t comma = typed.find(',');
    return {trimmed(typed.substr(0, comma)), comma == std::string::npos ? "" : trimmed(typed.substr(comma + 1))};
}

} // namespace

void add_stop_rows(Column* column, Session* session, const Part& part) {
    TypedLines<StopByHand> lines{session, part.id, &Part::stops, "stop %1 of the print", {}, {}, {}, {}};
    lines.words = [session](const Part& its, const StopByHand& stop) { return stop_words(session, its, stop); };
    lines.typed = [](const StopByHand& stop) { return stop.at + (stop.why.empty() ? "" : ", " + stop.why); };
    lines.read = [](const std::string& typed) -> Expected<StopByHand> { return stop_typed(typed); };
    lines.edit = [](PartId id, std::vector<StopByHand> all) -> Edit { return SetStops{id, std::move(all)}; };
    add_typed_lines(column, column->body(), part, lines, "Stops by hand",
                    "a height above its foot; why, after a comma");
}

void add_band_rows(Column* column, Session* session, const Part& part) {
    TypedLines<TypedBand> lines{session, part.id, &Part::bands, "layers of another height %1", {}, {}, {}, {}};
    lines.words = [](const Part&, const TypedBand& band) {
        return as_shown(QString::fromStdString("Prints " + band_words(band)));
    };
    lines.typed = [](const TypedBand& band) { return band.from + " to " + band.to + " by " + band.layer; };
    lines.read = band_typed;
    lines.edit = [](PartId id, std::vector<TypedBand> all) -> Edit { return SetBands{id, std::move(all)}; };
    add_typed_lines(column, column->body(), part, lines, "Finer or thicker layers",
                    "heights above its foot: 10 to 14 by 0.12");
}

std::optional<Problem> add_stop(Session* session, PartId id, const std::string& typed) {
    const PartPtr part = session->project()->part(id);
    if (!part) return std::nullopt;
    auto stops = part->stops;
    stops.push_back(stop_typed(typed));
    return session->document().edit(SetStops{id, stops}, true);
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
