#include "app/panels/gap_ruler.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "project/contact_words.h"
#include <QApplication>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace lp {

using theme::Role;

namespace {

constexpr int rule_height = 22, name_height = 16;
/// Wider than the widest named fit things rattle: common practice, no published source.
constexpr double rattles_mm = 0.6;

/// "0.25 mm"
QString gap_words(double mm) {
    return as_shown(format_fixed(mm, 2) + " mm");
}

/// Marks of the rule in the unit that is shown: where they stand, and the number of those that carry one.
struct RuleMark {
    double mm;
    bool carries;
    QString number;
};
std::vector<RuleMark> rule_marks() {
    std::vector<RuleMark> marks;
    if (inches_are_shown()) // thousandths: one in two, every tenth with its number
        for (int k = -8; k <= 39; ++k)
            marks.push_back(
                {k * 0.0254, k % 10 == 0, k == 0 ? QString("0 in") : QString::number(k / 1000.0, 'f', 2).remove(0, 1)});
    else
        for (int k = -20; k <= 100; k += 5)
            marks.push_back(
                {k / 100.0, k % 20 == 0, k == 100 ? QString("1 mm") : QString::number(k / 100.0, 'f', k == 0 ? 0 : 1)});
    return marks;
}

double gap_in(const Project& project, const NamedFit& fit) {
    return fit_gap_of(fit, project.material);
}

} // namespace

double GapScale::x(double mm, int width) {
    return margin_px + (std::clamp(mm, low_mm, high_mm) - low_mm) / (high_mm - low_mm) * (width - 2 * margin_px);
}

double GapScale::mm(double x, int width) {
    return low_mm + (x - margin_px) / std::max(1, width - 2 * margin_px) * (high_mm - low_mm);
}

std::optional<Problem> give_fit(Session& session, const ContactResult& contact, const std::string& fit) {
    if (!contact.step) return session.document().edit(SetContact{contact.a, contact.b, fit});
    const Step* its = session.project()->step(contact.part_b, contact.step);
    const StepKind* kind = its ? find_step_kind(its->kind) : nullptr;
    const StepField* field = kind ? kind->field_of(FieldKind::Fit) : nullptr;
    if (!field) return Problem{ProblemCode::Missing, "The step of this contact has no fit.", "Change its numbers."};
    return session.document().edit(SetField{contact.part_b, contact.step, field->name, fit});
}

GapRuler::GapRuler(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName("Gap ruler");
    for (const NamedFit& fit : session->project()->fits)
        notches_.push_back({fit.name, gap_in(*session->project(), fit), {}});
    std::stable_sort(notches_.begin(), notches_.end(),
                     [](const Notch& a, const Notch& b) { return a.gap_mm < b.gap_mm; });
    lay_names();
    setFixedHeight(height_);
    QStringList words;
    for (const Notch& n : notches_) words << QString::fromStdString(n.fit) + " " + gap_words(n.gap_mm);
    setAccessibleDescription(words.join(", "));
    setToolTip("Drag a notch: every contact with that fit follows.\nLeft, Right: choose · Up, Down: a hundredth · "
               "type a number");
}

/// Names stand over their notches, one above the other where they would meet.
void GapRuler::lay_names() {
    QFontMetrics metrics(theme::words(11.5, QFont::DemiBold));
    std::vector<double> ends; // of each level
    for (Notch& n : notches_) {
        const int w = metrics.horizontalAdvance(QString::fromStdString(n.fit)) + 6;
        double x = std::clamp(GapScale::x(n.gap_mm, width()) - w / 2.0, 2.0, std::max(2.0, double(width() - w - 2)));
        size_t level = 0;
        while (level < ends.size() && ends[level] > x) ++level;
        if (level == ends.size()) ends.push_back(0);
        ends[level] = x + w + 2;
        n.name = QRectF(x, double(level), w, name_height); // its level, for now
    }
    rule_top_ = int(std::max<size_t>(1, ends.size())) * name_height + 8;
    for (Notch& n : notches_) n.name.moveTop(rule_top_ - 6 - (n.name.top() + 1) * name_height);
    height_ = rule_top_ + rule_height + 18;
    if (minimumHeight() != height_) setFixedHeight(height_);
}

GapRuler::Notch* GapRuler::notch(const std::string& fit) {
    auto found = std::find_if(notches_.begin(), notches_.end(), [&](const Notch& n) { return n.fit == fit; });
    return found == notches_.end() ? nullptr : &*found;
}

QRectF GapRuler::notch_rect(const std::string& fit) const {
    for (const Notch& n : notches_)
        if (n.fit == fit) return {GapScale::x(n.gap_mm, width()) - 5, double(rule_top_) - 4, 10, rule_height + 4};
    return {};
}

void GapRuler::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF rule(GapScale::x(GapScale::low_mm, width()) - 8, rule_top_,
                      GapScale::x(GapScale::high_mm, width()) - GapScale::x(GapScale::low_mm, width()) + 16,
                      rule_height);
    p.setPen(QPen(theme::colour(Role::TapeTick), 1));
    p.setBrush(theme::colour(Role::Tape));
    p.drawRoundedRect(rule, 3, 3);
    auto zone = [&](double from, double to, const QBrush& brush) {
        double a = std::max(rule.left(), GapScale::x(from, width())), b = GapScale::x(to, width());
        p.fillRect(QRectF(a, rule.top() + 1, b - a, rule.height() - 2), brush);
    };
    // What this printer fuses is hatched; where things rattle it is light.
    zone(0, session_->project()->printer.smallest_open_gap_mm, QBrush(theme::colour(Role::TapeInk), Qt::BDiagPattern));
    QColor light = theme::colour(Role::Card);
    light.setAlphaF(0.55f);
    zone(rattles_mm, GapScale::high_mm, light);
    auto is_mine = [&](const Notch& n) { return n.fit == chosen_ && (hasFocus() || dragged_mm_); };
    auto place_of = [&](const Notch& n) {
        return GapScale::x(is_mine(n) && dragged_mm_ ? *dragged_mm_ : n.gap_mm, width());
    };
    double number_at = -1000;
    for (const Notch& n : notches_)
        if (is_mine(n)) number_at = place_of(n);
    p.setFont(theme::numbers(10.5));
    for (const auto& [mm, whole, words] : rule_marks()) {
        const double x = GapScale::x(mm, width());
        p.setPen(QPen(theme::colour(Role::TapeInk), mm == 0 ? 1.6 : 1));
        p.drawLine(QPointF(x, rule.bottom() - (whole ? 10 : 5)), QPointF(x, rule.bottom()));
        if (!whole || std::fabs(x - number_at) < 58) continue; // the number in hand stands there
        p.setPen(theme::colour(Role::SoftInk));
        p.drawText(QRectF(x - 24, rule.bottom() + 2, 48, 14), Qt::AlignCenter, words);
    }
    for (const Notch& n : notches_) {
        p.setPen(QPen(theme::colour(is_mine(n) ? Role::Accent : Role::Ink), is_mine(n) ? 2 : 1.3));
        p.drawLine(QPointF(place_of(n), n.name.bottom()), QPointF(place_of(n), rule.bottom()));
    }
    for (const Notch& n : notches_) {
        const bool mine = is_mine(n);
        const double x = place_of(n), gap = mine && dragged_mm_ ? *dragged_mm_ : n.gap_mm;
        const QColor ink = theme::colour(mine ? Role::Accent : Role::Ink);
        p.setPen(Qt::NoPen);
        p.setBrush(ink);
        p.drawPolygon(QPolygonF({{x - 4, rule.top() - 1}, {x + 4, rule.top() - 1}, {x, rule.top() + 6}}));
        p.setFont(theme::words(11.5, mine ? QFont::Bold : QFont::DemiBold));
        QRectF name = n.name;
        if (mine && dragged_mm_) name.moveLeft(std::clamp(x - name.width() / 2, 2.0, width() - name.width() - 2));
        p.fillRect(name.adjusted(0, 1, 0, -1), theme::colour(Role::Card)); // lines of others do not run through it
        p.setPen(ink);
        p.drawText(name, Qt::AlignCenter, QString::fromStdString(n.fit));
        if (!mine || field_) continue;
        // The number of the one in hand, in brass, at the rule's foot.
        p.setFont(theme::numbers(11.5));
        QRectF number(std::clamp(x - 32, 0.0, width() - 64.0), rule.bottom() + 2, 64, 15);
        p.fillRect(number, theme::colour(Role::Card));
        p.setPen(theme::colour(Role::Brass));
        p.drawText(number, Qt::AlignCenter, gap_words(gap));
    }
    if (!hasFocus()) return;
    p.setPen(QPen(theme::colour(Role::Accent), 1.2));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(3, 0.6, -3, -0.6), 4, 4);
}

const GapRuler::Notch* GapRuler::at(const QPointF& place) const {
    const Notch* best = nullptr;
    double nearest = 9;
    for (const Notch& n : notches_) {
        if (n.name.contains(place)) return &n;
        const double off = std::fabs(place.x() - GapScale::x(n.gap_mm, width()));
        if (place.y() > rule_top_ - 6 && off < nearest) nearest = off, best = &n;
    }
    return best;
}

void GapRuler::mousePressEvent(QMouseEvent* event) {
    const Notch* taken = event->button() == Qt::LeftButton ? at(event->position()) : nullptr;
    if (!taken) return;
    chosen_ = taken->fit;
    dragged_mm_ = taken->gap_mm;
    press_x_ = event->position().x() - GapScale::x(taken->gap_mm, width());
    update();
}

void GapRuler::mouseMoveEvent(QMouseEvent* event) {
    setCursor(at(event->position()) ? Qt::SizeHorCursor : Qt::ArrowCursor);
    if (!dragged_mm_) return;
    const double mm = GapScale::mm(event->position().x() - press_x_, width());
    dragged_mm_ = std::round(std::clamp(mm, GapScale::low_mm, GapScale::high_mm) * 100) / 100;
    update();
}

void GapRuler::mouseReleaseEvent(QMouseEvent*) {
    if (!dragged_mm_) return;
    const double mm = *std::exchange(dragged_mm_, std::nullopt);
    update();
    const Notch* mine = notch(chosen_);
    QPointer<GapRuler> self(this);
    if (mine && std::fabs(mm - mine->gap_mm) > 1e-9) set_gap_or_say(chosen_, mm);
    if (self) emit let_go();
}

void GapRuler::choose(const std::string& fit) {
    chosen_ = fit;
    update();
}

void GapRuler::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const Notch* taken = at(event->position())) type_number(taken->fit, {});
}

void GapRuler::contextMenuEvent(QContextMenuEvent* event) {
    const bool by_key = event->reason() == QContextMenuEvent::Keyboard;
    const Notch* asked = by_key ? notch(chosen_) : at(event->pos());
    const QPoint place = by_key ? mapToGlobal(QPoint(width() / 3, height_)) : event->globalPos();
    offer_help(session_, asked ? "fit:" + QString::fromStdString(asked->fit) : QString("fit"), place);
}

/// Where this material has a gap of its own for the fit, that is the one the notch stands at.
std::optional<Problem> GapRuler::set_gap(const std::string& fit, double gap_mm) {
    MaterialCard material = session_->project()->material;
    auto own = material.fits.find(fit);
    if (own == material.fits.end()) return session_->document().edit(SetFitGap{fit, gap_mm}, true);
    own->second = gap_mm;
    return session_->document().edit(SetMaterial{material}, true);
}

void GapRuler::set_gap_or_say(const std::string& fit, double gap_mm) {
    if (auto wrong = set_gap(fit, gap_mm)) session_->say(QString::fromStdString(wrong->text()), true);
}

/// The number is typed where the notch stands.
void GapRuler::type_number(const std::string& fit, const QString& start) {
    const Notch* mine = notch(fit);
    if (!mine || field_) return;
    chosen_ = fit;
    field_ = new ValueField(ValueField::Look::Number, this);
    field_->set_label(QString::fromStdString(fit) + ", gap a face", "gap a face");
    field_->set_quantity(QuantityKind::Length, [this] { return session_->results().values(); });
    const QString now = QString::fromStdString(format_fixed(mine->gap_mm, 2)) + " mm";
    field_->set_value(now, now);
    field_->setGeometry(int(std::clamp(GapScale::x(mine->gap_mm, width()) - 48, 0.0, width() - 96.0)),
                        rule_top_ + rule_height - 5, 96, 25);
    field_->show();
    connect(field_, &ValueField::submitted, this, [this, fit](const QString& typed) {
        auto number = evaluate_expression(typed.toStdString(), QuantityKind::Length, session_->results().values());
        QPointer<ValueField> field = field_;
        std::optional<Problem> wrong;
        if (!number)
            wrong = number.error();
        else
            wrong = set_gap(fit, *number);
        if (!field) return;
        if (!wrong) return field->accept();
        session_->say(QString::fromStdString(wrong->text()), true);
        field->refuse(QString::fromStdString(wrong->text()));
    });
    field_->begin_edit(start);
    connect(field_, &ValueField::closed, this, [this] {
        const bool had = field_->isAncestorOf(QApplication::focusWidget()) || !QApplication::focusWidget();
        field_->deleteLater();
        field_ = nullptr;
        if (had) setFocus();
        update();
    });
}

void GapRuler::keyPressEvent(QKeyEvent* event) {
    Notch* mine = notch(chosen_);
    auto step = [&](int by) {
        const long at = mine ? mine - notches_.data() : -1;
        if (!notches_.empty()) chosen_ = notches_[size_t(std::clamp<long>(at + by, 0, long(notches_.size()) - 1))].fit;
        update();
    };
    const double by = event->modifiers() & Qt::ControlModifier ? 0.1 : 0.01;
    if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Right)
        return step(event->key() == Qt::Key_Left ? -1 : 1);
    if (mine && (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down))
        return set_gap_or_say(chosen_,
                              std::round((mine->gap_mm + (event->key() == Qt::Key_Up ? by : -by)) * 100) / 100);
    if (mine && (event->key() == Qt::Key_Return || event->key() == Qt::Key_F2)) return type_number(chosen_, {});
    const QString text = event->text();
    if (mine && !text.isEmpty() && (text[0].isDigit() || QString(".-+").contains(text[0])) &&
        !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier)))
        return type_number(chosen_, text);
    QWidget::keyPressEvent(event);
}

void GapRuler::focusInEvent(QFocusEvent*) {
    if (!notch(chosen_) && !notches_.empty()) chosen_ = notches_.front().fit;
    update();
}

ContactRow::ContactRow(Session* session, const ContactResult& contact, const QString& below, QWidget* parent)
    : MarkRow(QString::fromStdString(contact_title(contact)), below, parent), session_(session), contact_(contact) {
    setFixedHeight(66);
    setToolTip(as_shown(below) + "\nDrag the ring to another fit's notch");
}

QRectF ContactRow::ring_rect() const {
    const double at = contact_.gap ? contact_.gap->min_mm : GapScale::high_mm;
    const double x = dragged_x_.value_or(GapScale::x(std::isfinite(at) ? at : GapScale::high_mm, width()));
    return {x - 8, 45, 16, 16};
}

void ContactRow::set_printed(double gap_mm, FitState state) {
    printed_ = {gap_mm, state};
    setToolTip(toolTip() + "\nThe small ring: as a practice print leaves it");
    update();
}

QRectF ContactRow::printed_rect() const {
    if (!printed_) return {};
    return {GapScale::x(printed_->first, width()) - 5.5, ring_rect().center().y() - 5.5, 11, 11};
}

void ContactRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    paint_ground(p);
    p.setPen(theme::colour(Role::Ink));
    p.setFont(theme::words(13.5, QFont::DemiBold));
    p.drawText(QRectF(theme::margin, 3, width() - 28, 19), Qt::AlignVCenter,
               p.fontMetrics().elidedText(title(), Qt::ElideRight, width() - 30));
    p.setPen(theme::colour(Role::SoftInk));
    p.setFont(theme::numbers(12));
    p.drawText(QRectF(theme::margin, 21, width() - 28, 18), Qt::AlignVCenter,
               p.fontMetrics().elidedText(below(), Qt::ElideRight, width() - 30));
    const double y = ring_rect().center().y(), from = GapScale::x(GapScale::low_mm, width()),
                 to = GapScale::x(GapScale::high_mm, width());
    p.setPen(QPen(theme::colour(Role::Line), 1));
    p.drawLine(QPointF(from, y), QPointF(to, y));
    if (contact_.wanted) {
        const double x = GapScale::x(contact_.wanted->gap_mm, width());
        p.setPen(QPen(theme::colour(Role::Brass), 2));
        p.drawLine(QPointF(x, y - 9), QPointF(x, y + 9));
    }
    if (contact_.gap) {
        const double least = contact_.gap->min_mm, most = contact_.gap->max_mm.value_or(least);
        p.setPen(QPen(theme::colour(Role::SoftInk), 2));
        p.drawLine(QPointF(GapScale::x(least, width()), y), QPointF(GapScale::x(most, width()), y));
        if (most > GapScale::high_mm) // it goes on beyond the rule
            p.drawPolyline(QPolygonF({{to - 5, y - 4}, {to, y}, {to - 5, y + 4}}));
    }
    p.setPen(Qt::NoPen);
    p.setBrush(theme::colour(Role::Card));
    p.drawEllipse(ring_rect());
    theme::draw_fit_ring(p, ring_rect(), contact_.state);
    if (printed_) {
        p.setPen(Qt::NoPen);
        p.setBrush(theme::colour(Role::Card));
        p.drawEllipse(printed_rect());
        theme::draw_fit_ring(p, printed_rect(), printed_->second);
        p.setPen(theme::colour(Role::SoftInk));
        p.setFont(theme::words(10.5));
        const QRectF word(printed_rect().left() - 46, y - 7, 43, 14);
        if (word.left() > 2 && !word.intersects(ring_rect()))
            p.drawText(word, Qt::AlignRight | Qt::AlignVCenter, "printed");
    }
    if (!dragged_x_) return;
    const NamedFit* to_fit = nearest(*dragged_x_);
    if (!to_fit) return;
    p.setFont(theme::words(11.5, QFont::Bold));
    p.setPen(theme::colour(Role::Accent));
    const QString words = QString::fromStdString(to_fit->name) + " " + gap_words(gap_in(*session_->project(), *to_fit));
    const int w = p.fontMetrics().horizontalAdvance(words);
    const double x = *dragged_x_ + 12 + w > width() ? *dragged_x_ - 12 - w : *dragged_x_ + 12;
    p.fillRect(QRectF(x - 2, y - 9, w + 4, 18), theme::colour(Role::Card));
    p.drawText(QRectF(x, y - 9, w + 2, 18), Qt::AlignVCenter, words);
}

const NamedFit* ContactRow::nearest(double x) const {
    const NamedFit* best = nullptr;
    double least = 1e300;
    for (const NamedFit& fit : session_->project()->fits) {
        const double off = std::fabs(GapScale::x(gap_in(*session_->project(), fit), width()) - x);
        if (off < least) least = off, best = &fit;
    }
    return best;
}

void ContactRow::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton && ring_rect().adjusted(-3, -3, 3, 3).contains(event->position()))
        pressed_x_ = event->position().x();
    else
        MarkRow::mousePressEvent(event);
}

void ContactRow::mouseMoveEvent(QMouseEvent* event) {
    if (!pressed_x_) return MarkRow::mouseMoveEvent(event);
    if (dragged_x_ || std::fabs(event->position().x() - *pressed_x_) > QApplication::startDragDistance())
        dragged_x_ = event->position().x();
    update();
}

void ContactRow::mouseReleaseEvent(QMouseEvent* event) {
    if (!pressed_x_) return MarkRow::mouseReleaseEvent(event);
    pressed_x_.reset();
    const auto x = std::exchange(dragged_x_, std::nullopt);
    update();
    if (!x) {
        setFocus();
        emit chosen();
        return;
    }
    const NamedFit* fit = nearest(*x);
    if (!fit || fit->name == contact_.fit) return emit let_go();
    if (auto wrong = give_fit(*session_, contact_, fit->name))
        session_->say(QString::fromStdString(wrong->text()), true);
}

} // namespace lp
