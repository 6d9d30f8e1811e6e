#include "app/panels/beds_section.h"
#include "app/bed_stands.h"
#include "app/theme/theme.h"
#include <QCheckBox>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSpinBox>

namespace lp {
namespace {

QCheckBox* add_tick(Column* column, const QString& words, bool on) {
    auto* row = new QWidget(column);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 2, theme::margin, 2);
    auto* tick = new QCheckBox(words, row);
    tick->setChecked(on);
    box->addWidget(tick);
    column->body()->addWidget(row);
    return tick;
}

void add_arranging(Column* column, Session* session, const BedLayout& layout) {
    ValueRow row = make_value_row("Between things", "from outline to outline, when everything is arranged", column);
    bind_number(session, row, "beds spacing_mm");
    column->body()->addWidget(row.row);
    auto* apart = add_tick(column, "One colour a bed", session->project()->beds.colours_apart);
    QObject::connect(apart, &QCheckBox::toggled, session, [session](bool on) {
        BedSettings beds = session->project()->beds;
        beds.colours_apart = on;
        session->document().edit(SetBeds{beds});
    });
    auto* one = add_tick(column, "One at a time", session->project()->beds.one_at_a_time);
    one->setToolTip("Each is printed whole before the next, the tallest of a bed last: apart by what the head of the "
                    "printer card reaches out");
    QObject::connect(one, &QCheckBox::toggled, session, [session](bool on) {
        BedSettings beds = session->project()->beds;
        beds.one_at_a_time = on;
        session->document().edit(SetBeds{beds});
    });
    auto* buttons = new QWidget(column);
    auto* box = new QHBoxLayout(buttons);
    box->setContentsMargins(theme::margin, 4, theme::margin, 4);
    auto* all = new QPushButton("Arrange everything", buttons);
    all->setToolTip("On as few beds as it needs, round what stays");
    QObject::connect(all, &QPushButton::clicked, session, [session] { arrange_everything(*session); });
    box->addWidget(all);
    const bool put = std::any_of(layout.copies.begin(), layout.copies.end(), [](const BedCopy& c) { return c.put; });
    if (put) {
        auto* rows = new QPushButton("Back in rows", buttons);
        rows->setToolTip("Nothing stays where it was put");
        QObject::connect(rows, &QPushButton::clicked, session, [session] { back_in_rows(*session); });
        box->addWidget(rows);
    }
    column->body()->addWidget(buttons);
}

/// In which order the things of a bed are printed where each is printed whole before the next.
QString order_words(const Session& session, const BedLayout& layout, size_t bed) {
    const Analysis* analysis = session.results().analysis();
    if (!analysis) return {};
    std::vector<BedItem> items;
    for (const BedCopy& copy : layout.copies)
        if (copy.spot.bed == bed && analysis->part(copy.part))
            items.push_back({.part = copy.part, .copy = copy.copy, .spot = copy.spot});
    items = in_printing_order(*session.project(), items,
                              [&](PartId part) { return height_of(*analysis->part(part)->posed); });
    constexpr size_t told = 12;
    QStringList names;
    for (const BedItem& item : items)
        if (const PartPtr part = session.project()->part(item.part); part && size_t(names.size()) < told)
            names << QString::fromStdString(part->name) +
                         (part->quantity > 1 ? QString(" %1").arg(item.copy + 1) : QString());
    if (items.size() > told) names << QString("%1 more").arg(items.size() - told);
    return QString("Printed on bed %1 in this order: %2.").arg(bed + 1).arg(names.join(", "));
}

/// Which copy the numbers below are of.
void add_copy_choice(Column* column, Session* session, const BedCopy& in_hand, int copies) {
    auto* row = new QWidget(column);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 2, theme::margin, 2);
    box->addWidget(new QLabel("Copy", row), 1);
    auto* which = new QSpinBox(row);
    which->setAccessibleName("Copy");
    which->setRange(1, copies);
    which->setValue(in_hand.copy + 1);
    which->setSuffix(QString(" of %1").arg(copies));
    QObject::connect(which, &QSpinBox::valueChanged, session,
                     [session](int n) { session->workspace().set_active_copy(n - 1); });
    box->addWidget(which);
    column->body()->addWidget(row);
}

void add_place(Column* column, Session* session, const BedCopy& in_hand) {
    auto put = [session, in_hand](auto change) {
        BedStand stand{in_hand.spot, in_hand.locked};
        change(stand);
        put_on_bed(*session, in_hand.part, in_hand.copy, stand);
    };
    auto number = [&](const char* name, const char* hint, double value, QuantityKind kind, auto set) {
        ValueRow row = make_value_row(name, hint, column);
        bind_number(session, row, value, kind, {},
                    [session, put, set, kind](const std::string& typed) -> std::optional<Problem> {
                        auto read = typed_number(*session, typed, kind);
                        if (!read) return read.error();
                        BedStand trial;
                        if (auto wrong = set(trial, *read)) return wrong;
                        if (auto wrong = check_stand(0, trial)) return wrong;
                        put([&](BedStand& stand) { set(stand, *read); });
                        return std::nullopt;
                    });
        column->body()->addWidget(row.row);
    };
    using Wrong = std::optional<Problem>;
    number("From the left", "of the bed, to its middle", in_hand.spot.at.x(), QuantityKind::Length,
           [](BedStand& s, double v) -> Wrong { return s.spot.at.x() = v, std::nullopt; });
    number("From the front", "of the bed, to its middle", in_hand.spot.at.y(), QuantityKind::Length,
           [](BedStand& s, double v) -> Wrong { return s.spot.at.y() = v, std::nullopt; });
    number("Turned", "about the upright, as it lies", in_hand.spot.turn_deg, QuantityKind::Angle,
           [](BedStand& s, double v) -> Wrong { return s.spot.turn_deg = v, std::nullopt; });
    number("Bed", "the first is 1", double(in_hand.spot.bed + 1), QuantityKind::Count,
           [](BedStand& s, double v) -> Wrong {
               if (!(v >= 1 && v <= 100))
                   return Problem{ProblemCode::Range, "Beds are counted from 1 to 100.", "Type such a number."};
               return s.spot.bed = size_t(std::lround(v)) - 1, std::nullopt;
           });
    auto* stays = add_tick(column, "Stays there when everything is arranged", in_hand.locked);
    QObject::connect(stays, &QCheckBox::toggled, session, [put](bool on) { put([&](BedStand& s) { s.locked = on; }); });
    if (in_hand.past_border)
        column->body()->addWidget(make_note("It reaches past the border of the bed.", true, column));
    if (const Analysis* analysis = session->results().analysis())
        for (const BedTrouble& trouble : analysis->beds) {
            if (trouble.part != in_hand.part || trouble.copy != in_hand.copy) continue;
            if (trouble.in_another)
                column->body()->addWidget(make_note("It stands in another thing.", true, column));
            else if (trouble.under_head)
                column->body()->addWidget(make_note("The head would meet it while others are printed.", true, column));
        }
}

} // namespace

void add_beds_section(Column* column, Session* session, const Part& part) {
    const BedLayout layout = bed_layout(*session);
    column->body()->addWidget(make_heading("Beds", words_of_beds(layout.copies.size(), layout.beds), column));
    add_arranging(column, session, layout);
    const auto in_hand = copy_in_hand(*session, layout);
    if (!in_hand) return;
    if (session->project()->beds.one_at_a_time)
        column->body()->addWidget(make_note(order_words(*session, layout, in_hand->spot.bed), false, column));
    const auto copies = std::count_if(layout.copies.begin(), layout.copies.end(),
                                      [&](const BedCopy& copy) { return copy.part == part.id; });
    if (copies > 1) add_copy_choice(column, session, *in_hand, int(copies));
    add_place(column, session, *in_hand);
}

} // namespace lp
