#include "app/panels/movement_section.h"
#include "app/theme/theme.h"
#include "project/standing.h"
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QPointer>
#include <QPushButton>

namespace lp {

using theme::Role;

namespace {
QString place_words(const MovementPath& path, double position) {
    return as_shown(QString::fromStdString(position_words(path, position)));
}
/// As it is typed: "90 deg", "12.5 mm"; at an end as that is typed.
std::string typed_position(const KeptMovement& movement, const MovementPath& path, double position) {
    const bool slide = path.kind == MovementPath::Kind::Slide, legs = path.kind == MovementPath::Kind::Legs;
    const double finest = slide || legs ? 0.01 : 0.1;
    if (!legs && std::fabs(position - path.from) < finest / 2) return movement.from;
    if (!legs && std::fabs(position - path.to) < finest / 2) return movement.to;
    return format_number(position, slide || legs ? 2 : 1) + (slide ? " mm" : legs ? "" : " deg");
}

const MovementKind& kind_of(const KeptMovement& movement) {
    const MovementKind* kind = find_movement_kind(movement.kind);
    return kind ? *kind : movement_kinds().front();
}

std::optional<Problem> change_movement(Session& session, MovementId id,
                                       const std::function<void(KeptMovement&)>& change, bool quietly) {
    for (KeptMovement next : session.project()->movements)
        if (next.id == id) {
            change(next);
            return session.document().edit(SetMovement{next}, quietly);
        }
    return std::nullopt;
}

/// What is typed into the field becomes that text of the movement, or is refused in place.
void keep_typed(Session* session, ValueField* field, MovementId id,
                const std::function<std::string&(KeptMovement&)>& text_of) {
    QObject::connect(field, &ValueField::submitted, field, [session, field, id, text_of](const QString& typed) {
        QPointer<ValueField> alive(field);
        auto wrong = change_movement(
            *session, id, [&](KeptMovement& movement) { text_of(movement) = typed.trimmed().toStdString(); }, true);
        if (!alive) return;
        if (wrong)
            field->refuse(QString::fromStdString(wrong->text()));
        else
            field->accept();
    });
}
} // namespace

MovementCurve::MovementCurve(const MovementOutcome& outcome, double position, QWidget* parent)
    : QWidget(parent), outcome_(outcome), position_(position) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(116);
    setAccessibleName("Smallest gap along the movement");
    setAccessibleDescription(movement_words(outcome).join(" "));
    setToolTip("Drag the handle, or use the arrow keys; Shift goes on through a contact.");
    double most = 0;
    for (const MovementSample& s : outcome_.result.curve) most = std::max(most, s.gap_mm.value_or(0));
    top_mm_ = most > 0 ? most * 1.1 : 1;
}

QRectF MovementCurve::plot() const {
    return QRectF(rect()).adjusted(theme::margin + 34, 8, -theme::margin, -24);
}

double MovementCurve::x_of(double position) const {
    const MovementPath& path = outcome_.path;
    return plot().left() + plot().width() * (position - path.from) / (path.to - path.from);
}

double MovementCurve::position_at(double x) const {
    const MovementPath& path = outcome_.path;
    return path.from + (path.to - path.from) * std::clamp((x - plot().left()) / plot().width(), 0.0, 1.0);
}

void MovementCurve::set_position(double position, bool through_contact) {
    const MovementPath& path = outcome_.path;
    double low = std::min(path.from, path.to), high = std::max(path.from, path.to);
    position = std::clamp(position, low, high);
    if (outcome_.result.first_contact && !through_contact) { // the parts stop where they touch
        double stop = *outcome_.result.first_contact;
        position = path.to > path.from ? std::min(position, stop) : std::max(position, stop);
    }
    position_ = position;
    update();
    emit moved(position_);
}

void MovementCurve::mousePressEvent(QMouseEvent* event) {
    setFocus();
    set_position(position_at(event->position().x()), event->modifiers() & Qt::ShiftModifier);
}

void MovementCurve::mouseMoveEvent(QMouseEvent* event) {
    if (event->buttons() & Qt::LeftButton)
        set_position(position_at(event->position().x()), event->modifiers() & Qt::ShiftModifier);
}

void MovementCurve::keyPressEvent(QKeyEvent* event) {
    const MovementPath& path = outcome_.path;
    double step = std::fabs(path.step) * (path.to > path.from ? 1 : -1);
    bool through = event->modifiers() & Qt::ShiftModifier;
    if (event->key() == Qt::Key_Right)
        set_position(position_ + step, through);
    else if (event->key() == Qt::Key_Left)
        set_position(position_ - step, through);
    else if (event->key() == Qt::Key_Home)
        set_position(path.from, through);
    else if (event->key() == Qt::Key_End)
        set_position(path.to, through);
    else
        QWidget::keyPressEvent(event);
}

void MovementCurve::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    QRectF r = plot();
    p.fillRect(r, theme::colour(Role::Field));
    p.setPen(theme::colour(Role::Line));
    p.drawRect(r);
    auto y_of = [&](double gap) { return r.bottom() - r.height() * std::min(1.0, gap / top_mm_); };
    // Stretches in contact are hatched.
    for (const Interference& i : outcome_.result.interferences) {
        double a = x_of(i.from), b = x_of(i.to);
        QRectF bar(std::min(a, b), r.top(), std::max(2.0, std::fabs(b - a)), r.height());
        p.fillRect(bar, QBrush(theme::colour(Role::Wrong), Qt::BDiagPattern));
    }
    QPainterPath line;
    bool down = false;
    for (const MovementSample& s : outcome_.result.curve) {
        if (!s.gap_mm) {
            down = false;
            continue;
        }
        QPointF at(x_of(s.position), y_of(*s.gap_mm));
        down ? line.lineTo(at) : line.moveTo(at);
        down = true;
    }
    p.setPen(QPen(theme::colour(Role::Ink), 1.6));
    p.drawPath(line);
    p.setFont(theme::numbers(11));
    p.setPen(theme::colour(Role::SoftInk));
    p.drawText(QRectF(0, r.top() - 6, r.left() - 4, 14), Qt::AlignRight | Qt::AlignVCenter, bare_length(top_mm_, 2));
    p.drawText(QRectF(0, r.bottom() - 8, r.left() - 4, 14), Qt::AlignRight | Qt::AlignVCenter,
               as_shown(QString("0 mm")));
    p.drawText(QRectF(r.left(), r.bottom() + 4, 120, 16), Qt::AlignLeft,
               place_words(outcome_.path, outcome_.path.from));
    p.drawText(QRectF(r.right() - 120, r.bottom() + 4, 120, 16), Qt::AlignRight,
               place_words(outcome_.path, outcome_.path.to));
    double x = x_of(position_);
    p.setPen(QPen(theme::colour(Role::Accent), 2));
    p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
    p.setBrush(theme::colour(Role::Accent));
    p.drawEllipse(QPointF(x, r.bottom()), 4, 4);
    p.setPen(theme::colour(Role::Ink));
    p.drawText(QRectF(r.center().x() - 60, r.bottom() + 4, 120, 16), Qt::AlignCenter,
               place_words(outcome_.path, position_));
    if (hasFocus()) {
        p.setPen(QPen(theme::colour(Role::Accent), 1.4));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
    }
}

QStringList movement_words(const MovementOutcome& outcome) {
    QStringList words;
    QStringList along;
    for (const std::string& name : outcome.along) along << QString::fromStdString(name);
    const MovementResult& r = outcome.result;
    if (r.first_contact) {
        for (const Interference& i : r.interferences) {
            QString with = i.with < outcome.still.size() ? QString::fromStdString(outcome.still[i.with]) : QString();
            words << QString("Touches %1 from %2 to %3, first at %4, %5, %6 mm.")
                         .arg(with, place_words(outcome.path, i.from), place_words(outcome.path, i.to),
                              two_places(i.at.x()), two_places(i.at.y()), two_places(i.at.z()));
            if (words.size() == 4) break;
        }
    } else if (std::isfinite(r.smallest_gap_mm)) {
        words << QString("Goes all the way; the gap is never below %1 mm (at %2).")
                     .arg(two_places(r.smallest_gap_mm), place_words(outcome.path, r.smallest_at));
    } else {
        words << "Goes all the way; nothing comes nearer than 5 mm.";
    }
    if (!outcome.rests_on.empty())
        words << QString("Begins on its seat on %1, which it leaves.").arg(QString::fromStdString(outcome.rests_on));
    if (!along.isEmpty())
        words << QString("%1 %2 along: seated on it.").arg(along.join(", "), along.size() == 1 ? "goes" : "go");
    if (outcome.printed && !words.isEmpty()) words.front() = "As printed in practice: " + words.front();
    if (outcome.play) {
        auto way = [](const Play::Way& w, const char* unit, double most) {
            auto one = [&](double v) { return v >= most * 0.999 ? QString("free") : two_places(v) + unit; };
            return QString("−%1 / +%2").arg(one(w.minus), one(w.plus));
        };
        words << QString("Play along the axis %1, across it %2 and %3; tilts %4 and %5.")
                     .arg(way(outcome.play->shifts[0], " mm", 5), way(outcome.play->shifts[1], " mm", 5),
                          way(outcome.play->shifts[2], " mm", 5), way(outcome.play->tilts[1], "°", 30),
                          way(outcome.play->tilts[2], "°", 30));
    }
    return words;
}

std::optional<KeptMovement> movement_from_pick(const Session& session, const Pick& pick, const MovementKind& kind) {
    const Evaluation* evaluation = session.results().evaluation();
    const PartResult* part = evaluation ? evaluation->part(pick.part) : nullptr;
    if (!part || pick.body >= part->bodies.size()) return std::nullopt;
    KeptMovement movement;
    for (const Participant& who : participants(*evaluation))
        if (who.part == pick.part && (!who.body || *who.body == pick.body)) movement.moving = who.name;
    movement.kind = kind.name;
    movement.from = kind.from, movement.to = kind.to, movement.step = kind.step;
    movement.axis = session.results().thing_of(pick);
    if (movement.axis->reference.empty()) movement.axis.reset();
    return movement;
}

void lead_along_way(Session& session, const ContactResult& contact) {
    if (!session.results().evaluation()) return;
    auto movement = movement_along_way(*session.results().evaluation(), contact);
    if (!movement) return session.say(QString::fromStdString(movement.error().text()), true);
    for (const KeptMovement& kept : session.project()->movements) {
        movement->id = kept.id;
        if (kept == *movement) return session.results().check_movement(kept.id);
    }
    movement->id = MovementId();
    if (session.document().edit(AddMovement{*movement})) return;
    session.results().check_movement(session.project()->movements.back().id);
}

MovementSection::MovementSection(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    const auto& all = session->project()->movements;
    column->addWidget(make_heading("Movement", all.empty() ? "" : QString::number(all.size()), this));
    if (all.empty())
        column->addWidget(
            make_note("Choose a round face of a body and take the offer to turn it, or a flat one to slide it: "
                      "the gap is measured all along the way.",
                      false, this));
    for (const KeptMovement& movement : all) add(movement);
}

void MovementSection::add(const KeptMovement& movement) {
    auto* column = static_cast<QVBoxLayout*>(layout());
    Row row;
    row.id = movement.id;
    column->addWidget(
        make_heading(QString::fromStdString(movement.moving), QString(kind_of(movement).words).toLower(), this));
    auto text = [&](const char* name, const QString& words, const QString& hint, std::string KeptMovement::*what,
                    std::optional<QuantityKind> kind, const char* empty = "") {
        ValueRow line = make_value_row(words, hint, this);
        QString typed = QString::fromStdString(movement.*what);
        line.field->set_value(typed.isEmpty() ? empty : typed, typed);
        line.field->setAccessibleName(QString("%1, movement %2, %3")
                                          .arg(words)
                                          .arg(rows_.size() + 1)
                                          .arg(QString::fromStdString(movement.moving)));
        if (kind) make_quantity(session_, line.field, *kind);
        keep_typed(session_, line.field, movement.id,
                   [what](KeptMovement& kept) -> std::string& { return kept.*what; });
        row.fields[name] = line.field;
        column->addWidget(line.row);
    };
    add_kind(movement, row, column);
    const QuantityKind along = kind_of(movement).along;
    if (kind_of(movement).kind == MovementPath::Kind::Legs) {
        text("legs", "Legs", "such as: slide 6, turn 30, slide −3", &KeptMovement::legs, {});
    } else {
        text("from", "From", "where it begins; 0 is as drawn", &KeptMovement::from, along);
        text("to", "To", "where it ends", &KeptMovement::to, along);
        text("step", "Looked at every", "positions in between are measured too", &KeptMovement::step, along);
    }
    if (!movement.axis) add_axis(movement, row, column);
    if (kind_of(movement).kind == MovementPath::Kind::Screw)
        text("pitch", "Pitch", "along the axis, a turn", &KeptMovement::pitch, QuantityKind::Length);
    text("still", "Beside", "bodies by commas; empty for all others", &KeptMovement::still, {}, "all others");
    text("stands", "Stands at", "where it is left in this view; empty: as drawn", &KeptMovement::stands, along,
         "as drawn");
    if (const Evaluation* evaluation = session_->results().evaluation())
        if (const Problem* wrong = standing_of(*evaluation).problem_of(movement.id))
            column->addWidget(make_note("It stands as drawn: " + QString::fromStdString(wrong->text()), true, this));
    add_buttons(movement, row, column);
    add_outcome(movement, row, column);
    rows_.push_back(std::move(row));
}

void MovementSection::add_kind(const KeptMovement& movement, Row& row, QVBoxLayout* column) {
    ValueRow kind = make_value_row("Moves by", "turn, slide, screw or legs", this);
    kind.field->set_value(QString(kind_of(movement).words).toLower(), QString::fromStdString(movement.kind));
    kind.field->set_menu([this, id = movement.id](ValueField* field) {
        auto* menu = new QMenu(field);
        menu->setAttribute(Qt::WA_DeleteOnClose);
        for (const MovementKind& one : movement_kinds())
            connect(menu->addAction(one.words), &QAction::triggered, this, [this, id, name = one.name] {
                if (auto wrong = change_movement(
                        *session_, id, [&](KeptMovement& next) { next.kind = name; }, true))
                    session_->say(QString::fromStdString(wrong->text()), true);
            });
        menu->popup(field->mapToGlobal(QPoint(0, field->height())));
    });
    row.fields["kind"] = kind.field;
    column->addWidget(kind.row);
}

void MovementSection::add_buttons(const KeptMovement& movement, Row& row, QVBoxLayout* column) {
    auto* buttons = new QWidget(this);
    auto* line = new QHBoxLayout(buttons);
    line->setContentsMargins(theme::margin, 4, theme::margin, 4);
    row.check = new QPushButton("Lead it along", buttons);
    row.check->setObjectName("check-movement");
    connect(row.check, &QPushButton::clicked, this,
            [this, id = movement.id] { session_->results().check_movement(id); });
    row.printed = new QPushButton("As printed", buttons);
    row.printed->setObjectName("check-printed");
    row.printed->setToolTip("Prints the parts in practice and leads the body as it comes out: what the first layer or "
                            "narrow gaps join does not turn");
    connect(row.printed, &QPushButton::clicked, this,
            [this, id = movement.id] { session_->results().check_movement_as_printed(id); });
    auto* drop = new QPushButton("Drop", buttons);
    drop->setFlat(true);
    connect(drop, &QPushButton::clicked, this, [this, id = movement.id] {
        session_->results().show_movement(id, {});
        session_->document().edit(RemoveMovement{id});
    });
    line->addWidget(row.check);
    line->addWidget(row.printed);
    line->addWidget(drop);
    line->addStretch();
    column->addWidget(buttons);
}

/// A movement without a picked axis: a point of it and its direction as numbers.
void MovementSection::add_axis(const KeptMovement& movement, Row& row, QVBoxLayout* column) {
    auto line = [&](const char* name, const QString& words, std::array<std::string, 3> KeptMovement::*what, size_t k,
                    QuantityKind kind) {
        ValueRow value = make_value_row(words, "of the axis, in the assembly", this);
        QString typed = QString::fromStdString((movement.*what)[k]);
        value.field->set_value(typed, typed);
        make_quantity(session_, value.field, kind);
        keep_typed(session_, value.field, movement.id,
                   [what, k](KeptMovement& kept) -> std::string& { return (kept.*what)[k]; });
        row.fields[name] = value.field;
        column->addWidget(value.row);
    };
    const char* points[] = {"point_x", "point_y", "point_z"};
    const char* ways[] = {"direction_x", "direction_y", "direction_z"};
    const char* letters[] = {"x", "y", "z"};
    for (size_t k = 0; k < 3; ++k)
        line(points[k], QString("Axis through %1").arg(letters[k]), &KeptMovement::point, k, QuantityKind::Length);
    for (size_t k = 0; k < 3; ++k)
        line(ways[k], QString("Direction, %1").arg(letters[k]), &KeptMovement::direction, k, QuantityKind::Number);
}

void MovementSection::add_outcome(const KeptMovement& movement, Row& row, QVBoxLayout* column) {
    const MovementOutcome* outcome = session_->results().movement_outcome(movement.id);
    if (!outcome) return;
    if (!session_->results().movement_is_current(movement.id))
        column->addWidget(make_note("The project has changed since: lead it along again.", true, this));
    const auto left = standing_of(*session_->results().evaluation()).position_of(movement.id);
    const auto shown = session_->results().shown_position(movement.id);
    row.curve = new MovementCurve(*outcome, shown ? *shown : left.value_or(outcome->path.from), this);
    connect(row.curve, &MovementCurve::moved, this,
            [this, id = movement.id](double position) { session_->results().show_movement(id, position); });
    column->addWidget(row.curve);
    add_leave(movement, *outcome, row, column);
    for (const QString& words : movement_words(*outcome))
        column->addWidget(make_note(words, outcome->result.first_contact && words.contains("Touches"), this));
}

/// The position of the curve's handle is where it stands from now on; or it stands as drawn again.
void MovementSection::add_leave(const KeptMovement& movement, const MovementOutcome& outcome, Row& row,
                                QVBoxLayout* column) {
    auto* buttons = new QWidget(this);
    auto* line = new QHBoxLayout(buttons);
    line->setContentsMargins(theme::margin, 0, theme::margin, 4);
    row.leave = new QPushButton("Leave it here", buttons);
    row.leave->setObjectName("leave-movement");
    row.leave->setAccessibleName("Leave " + QString::fromStdString(movement.moving) + " here");
    row.leave->setToolTip("In this view, the sections, the measurements and on the job sheet it stands at the handle's "
                          "position; cuts, fits and prints go by what is drawn");
    auto leave = [session = session_, id = movement.id](const std::string& stands) {
        change_movement(
            *session, id, [&](KeptMovement& next) { next.stands = stands; }, false);
    };
    connect(
        row.leave, &QPushButton::clicked, session_,
        [leave, movement, path = outcome.path, curve = QPointer(row.curve)] {
            if (curve) leave(typed_position(movement, path, curve->position()));
        },
        Qt::QueuedConnection);
    line->addWidget(row.leave);
    if (!movement.stands.empty()) {
        auto* back = new QPushButton("As drawn", buttons);
        back->setObjectName("movement-as-drawn");
        back->setFlat(true);
        back->setToolTip("It stands where it was drawn again");
        connect(
            back, &QPushButton::clicked, session_, [leave] { leave({}); }, Qt::QueuedConnection);
        line->addWidget(back);
    }
    line->addStretch();
    column->addWidget(buttons);
    const auto left = standing_of(*session_->results().evaluation()).position_of(movement.id);
    const auto& first = outcome.result.first_contact;
    const double way = outcome.path.to > outcome.path.from ? 1 : -1;
    if (left && first && way * (*left - *first) > 1e-6)
        column->addWidget(make_note("On the way to where it stands it touches.", true, this));
}

ValueField* MovementSection::field(size_t movement, const std::string& name) const {
    if (movement >= rows_.size()) return nullptr;
    auto found = rows_[movement].fields.find(name);
    return found == rows_[movement].fields.end() ? nullptr : found->second;
}
MovementCurve* MovementSection::curve(size_t movement) const {
    return movement < rows_.size() ? rows_[movement].curve : nullptr;
}
QPushButton* MovementSection::printed_button(size_t movement) const {
    return movement < rows_.size() ? rows_[movement].printed : nullptr;
}
QPushButton* MovementSection::leave_button(size_t movement) const {
    return movement < rows_.size() ? rows_[movement].leave : nullptr;
}
QPushButton* MovementSection::check_button(size_t movement) const {
    return movement < rows_.size() ? rows_[movement].check : nullptr;
}

} // namespace lp
