// Where the active part stands in the assembly: its seats on other parts, and its numbers.
#include "app/panels/fit_panel.h"
#include "app/panels/typed_lines.h"
#include "app/session.h"
#include "app/theme/theme.h"
#include "app/widgets/value_field.h"
#include "project/seating.h"
#include <QHBoxLayout>
#include <QPointer>
#include <QPushButton>

namespace lp {
namespace {

/// "Lid: seated on Box, moved x 3 mm"
QString place_words(const Part& part) {
    QStringList on, moved;
    for (const Seat& seat : part.place.seats)
        if (const QString name = QString::fromStdString(seat.on); !on.contains(name)) on << name;
    for (size_t k = 0; k < 3; ++k)
        if (part.place.at[k] != AssemblyPlace().at[k])
            moved << QString::fromStdString(std::string(1, "xyz"[k]) + " " + part.place.at[k]);
    QStringList where;
    if (!on.isEmpty()) where << "seated on " + on.join(" and ");
    if (!moved.isEmpty()) where << "moved " + moved.join(", ");
    if (where.isEmpty()) where << (part.place.is_home() ? "as drawn" : "turned");
    return QString::fromStdString(part.name) + ": " + where.join(", ");
}

/// Puts what was typed into a place; the field says why not.
void submit(Session* session, PartId id, ValueField* field, const std::function<void(AssemblyPlace&)>& change) {
    const PartPtr now = session->project()->part(id);
    if (!now) return;
    AssemblyPlace place = now->place;
    change(place);
    const QPointer<ValueField> alive(field);
    const auto wrong = session->document().edit(SetPlace{id, place}, true);
    if (!alive) return;
    if (wrong)
        field->refuse(QString::fromStdString(wrong->text()));
    else
        field->accept();
}

} // namespace

ValueField* FitPanel::add_place_field(const Part& part, const std::string& id, const QString& words,
                                      const QString& hint, const std::string& text, QuantityKind kind,
                                      std::function<void(AssemblyPlace&, const std::string&)> put) {
    ValueRow row = make_value_row(words, hint, this);
    auto value = evaluate_expression(text, kind, session_->results().values());
    row.field->set_value(value ? QString::fromStdString(format_quantity(*value, kind)) : QString::fromStdString(text),
                         QString::fromStdString(text));
    make_quantity(session_, row.field, kind);
    connect(row.field, &ValueField::submitted, this,
            [this, id = part.id, put, field = row.field](const QString& typed) {
                submit(session_, id, field, [&](AssemblyPlace& place) { put(place, typed.trimmed().toStdString()); });
            });
    places_[id] = row.field;
    body()->addWidget(row.row);
    return row.field;
}

/// What it is seated on, one line each, with the gap that stays between flat faces.
void FitPanel::add_seats(const Part& part) {
    const PartResult* made =
        session_->results().evaluation() ? session_->results().evaluation()->part(part.id) : nullptr;
    for (size_t i = 0; i < part.place.seats.size(); ++i) {
        const Seat& seat = part.place.seats[i];
        const QString number = QString::number(i + 1);
        const bool round = made && !sits_flat(part, *made, seat, session_->results().values());
        QPushButton* off = add_line(
            this, body(),
            QString("Seat %1: on %2%3").arg(number, QString::fromStdString(seat.on), round ? ", about one axis" : ""),
            "Take it off");
        off->setObjectName("seat-off-" + number);
        off->setAccessibleName(QString("Take %1 off its seat %2").arg(QString::fromStdString(part.name), number));
        connect(off, &QPushButton::clicked, this, [this, id = part.id, i] {
            const PartPtr now = session_->project()->part(id);
            if (!now || i >= now->place.seats.size()) return;
            AssemblyPlace place = now->place;
            place.seats.erase(place.seats.begin() + std::ptrdiff_t(i));
            Edit edit = SetPlace{id, place};
            edit.sentence = "Took " + now->name + " off a seat";
            session_->document().edit(edit);
        });
        if (round) continue;
        add_place_field(part, "seat_gap_" + number.toStdString(), "Left free between",
                        "between flat faces: a length, or a fit by its name", seat.gap, QuantityKind::Length,
                        [i](AssemblyPlace& place, const std::string& typed) {
                            if (i < place.seats.size()) place.seats[i].gap = typed;
                        });
    }
    if (part.place.seats.empty())
        body()->addWidget(make_note("Choose a face of it and a face of another part, and take the offer to seat it: it "
                                    "follows that part then.",
                                    false, this));
}

/// Where the active part stands in the assembly, apart from its drawing and its print pose.
void FitPanel::add_place() {
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    if (!part || !add_fold("Where it stands", place_words(*part), "fold-place", place_open_)) return;
    add_seats(*part);
    const bool seated = !part->place.seats.empty();
    const char* ids[] = {"at_x", "at_y", "at_z", "turn_x", "turn_y", "turn_z"};
    for (size_t k = 0; k < 3; ++k)
        add_place_field(*part, ids[k], QString("Moved in %1").arg("xyz"[k]),
                        seated ? "from its seat" : "in the assembly; its drawing and its print pose stay",
                        part->place.at[k], QuantityKind::Length,
                        [k](AssemblyPlace& place, const std::string& typed) { place.at[k] = typed; });
    for (size_t k = 0; k < 3; ++k)
        add_place_field(*part, ids[3 + k], QString("Turned about %1").arg("xyz"[k]),
                        seated ? "before it is seated" : "in the assembly; its drawing and its print pose stay",
                        part->place.turn[k], QuantityKind::Angle,
                        [k](AssemblyPlace& place, const std::string& typed) { place.turn[k] = typed; });
    if (part->place.is_home()) return;
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(theme::margin, 4, theme::margin, 4);
    auto* home = new QPushButton("Back to where it was drawn", row);
    home->setObjectName("place-home");
    line->addWidget(home);
    line->addStretch();
    connect(home, &QPushButton::clicked, this, [this, id = part->id] { session_->document().edit(SetPlace{id, {}}); });
    body()->addWidget(row);
}

} // namespace lp
