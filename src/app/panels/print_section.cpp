#include "app/panels/print_section.h"
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

/// Lines with *Change* and *Forget*, and a field for one more: what is changed comes into it as it was typed.
template <class One> struct TypedLines {
    Session* session;
    PartId part;
    std::vector<One> Part::*list;
    QString what; ///< "stop %1 of the print"
    std::function<QString(const Part&, const One&)> words;
    std::function<std::string(const One&)> typed;
    std::function<Expected<One>(const std::string&)> read;
    std::function<Edit(PartId, std::vector<One>)> edit;

    /// With one put in the place of another, or without it.
    std::optional<Problem> put(const std::optional<One>& before, const std::optional<One>& after) const {
        const PartPtr now = session->project()->part(part);
        if (!now) return std::nullopt;
        std::vector<One> all = (*now).*list;
        auto found = before ? std::find(all.begin(), all.end(), *before) : all.end();
        if (before && found == all.end()) return std::nullopt; // gone meanwhile
        if (found == all.end())
            all.push_back(*after);
        else if (after)
            *found = *after;
        else
            all.erase(found);
        return session->document().edit(edit(part, all), true);
    }
};

template <class One>
void add_typed_lines(Column* column, const Part& part, const TypedLines<One>& lines, const QString& name,
                     const QString& hint) {
    const auto changed = std::make_shared<std::optional<One>>();
    ValueRow row = make_value_row(name, hint, column);
    const std::vector<One>& all = part.*(lines.list);
    row.field->set_value(all.empty() ? "none" : "one more", "");
    for (size_t i = 0; i < all.size(); ++i) {
        const QString its = lines.what.arg(i + 1);
        auto* off = add_line(column, lines.words(part, all[i]), "Forget");
        off->setAccessibleName("Forget " + its);
        QObject::connect(
            off, &QPushButton::clicked, lines.session, [lines, one = all[i]] { lines.put(one, std::nullopt); },
            Qt::QueuedConnection);
        auto* change = new QPushButton("Change", off->parentWidget());
        change->setFlat(true);
        change->setAccessibleName("Change " + its);
        static_cast<QHBoxLayout*>(off->parentWidget()->layout())->insertWidget(1, change);
        QObject::connect(change, &QPushButton::clicked, row.field, [lines, one = all[i], changed, field = row.field] {
            *changed = one;
            field->begin_edit(QString::fromStdString(lines.typed(one)));
        });
    }
    QObject::connect(row.field, &ValueField::closed, row.field, [changed] { changed->reset(); });
    QObject::connect(row.field, &ValueField::submitted, column,
                     [lines, changed, field = row.field](const QString& typed) {
                         QPointer<ValueField> alive(field);
                         const auto one = lines.read(typed.toStdString());
                         const auto wrong = one ? lines.put(*changed, *one) : std::optional<Problem>(one.error());
                         if (!alive) return;
                         if (wrong) return field->refuse(QString::fromStdString(wrong->text()));
                         field->accept();
                     });
    column->body()->addWidget(row.row);
}

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
    add_typed_lines(column, part, lines, "Stops by hand", "a height above its foot; why, after a comma");
}

void add_band_rows(Column* column, Session* session, const Part& part) {
    TypedLines<TypedBand> lines{session, part.id, &Part::bands, "layers of another height %1", {}, {}, {}, {}};
    lines.words = [](const Part&, const TypedBand& band) {
        return as_shown(QString::fromStdString("Prints " + band_words(band)));
    };
    lines.typed = [](const TypedBand& band) { return band.from + " to " + band.to + " by " + band.layer; };
    lines.read = band_typed;
    lines.edit = [](PartId id, std::vector<TypedBand> all) -> Edit { return SetBands{id, std::move(all)}; };
    add_typed_lines(column, part, lines, "Finer or thicker layers", "heights above its foot: 10 to 14 by 0.12");
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
