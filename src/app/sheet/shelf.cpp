#include "app/sheet/shelf.h"
#include "app/run_aside.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include "base/text.h"
#include "project/carry_part.h"
#include "project/contact_words.h"
#include <QActionGroup>
#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QToolTip>

namespace lp {

using theme::Role;
namespace {
constexpr int row_px = theme::row_height;
const QString part_type = "application/x-loose-peg-part";
} // namespace

const std::vector<std::pair<const char*, const char*>>& filament_colours() {
    static const std::vector<std::pair<const char*, const char*>> muted{
        {"orange", "#d69b48"}, {"green", "#7f9164"}, {"stone", "#b9ae9c"},    {"grey blue", "#8fa7b0"},
        {"clay", "#a9785a"},   {"red", "#b5564a"},   {"charcoal", "#5c6268"}, {"white", "#e4dfd3"}};
    return muted;
}

Shelf::Shelf(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName("Parts and stand-ins");
    auto show = [this] {
        setFixedHeight(sizeHint().height());
        update();
    };
    connect(&session->document(), &Document::project_changed, this, show);
    for (auto fact : {&Results::analysed, &Results::evaluated}) connect(&session->results(), fact, this, show);
    for (auto fact : {&Workspace::selection_changed, &Workspace::active_part_changed})
        connect(&session->workspace(), fact, this, show);
    setFixedHeight(sizeHint().height());
}

QSize Shelf::sizeHint() const {
    return {theme::left_width, int(session_->project()->parts.size()) * row_px + 2};
}
QRect Shelf::row_rect(size_t row) const {
    return {0, int(row) * row_px, width(), row_px};
}
QRectF Shelf::eye_rect(size_t row) const {
    return {width() - 66.0, int(row) * row_px + 4.5, 18, 18};
}

int Shelf::row_at(const QPointF& at) const {
    int row = int(at.y()) / row_px;
    return row >= 0 && size_t(row) < session_->project()->parts.size() ? row : -1;
}

FitState Shelf::ring_of(const Part& part) const {
    if (!session_->results().analysis()) return FitState::Unset;
    auto weight = [](FitState s) {
        switch (s) {
        case FitState::Overlapping:
            return 5;
        case FitState::Touching:
            return 4;
        case FitState::Tight:
            return 3;
        case FitState::Slack:
            return 2;
        case FitState::Right:
            return 1;
        case FitState::Unset:
            return 0;
        }
        return 0;
    };
    FitState worst = FitState::Unset;
    for (const ContactResult& c : session_->results().analysis()->contacts)
        if ((c.part_a == part.id || c.part_b == part.id) && weight(c.state) > weight(worst)) worst = c.state;
    return worst;
}

void Shelf::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme::colour(Role::Card));
    p.setRenderHint(QPainter::Antialiasing);
    const auto& parts = session_->project()->parts;
    for (size_t i = 0; i < parts.size(); ++i) {
        const Part& part = *parts[i];
        QRect r = row_rect(i);
        bool active = part.id == session_->workspace().active_part();
        if (active) {
            p.fillRect(r, theme::colour(Role::Wash));
            p.fillRect(QRect(0, r.top(), 3, r.height()), theme::colour(Role::Accent));
        } else if (hover_ == int(i)) {
            p.fillRect(r, theme::colour(Role::Paper));
        }
        if (active && hasFocus()) {
            p.setPen(QPen(theme::colour(Role::Accent), 1.2));
            p.setBrush(Qt::NoBrush);
            p.drawRect(QRectF(r).adjusted(1, 1, -1, -1));
        }
        QRectF swatch(theme::margin, r.center().y() - 6, 13, 13);
        QPen pen(theme::colour(part.stand_in ? Role::GlassEdge : Role::Ink), 1.1);
        if (part.stand_in) pen.setDashPattern({2.2, 1.8});
        p.setPen(pen);
        p.setBrush(part.stand_in ? theme::colour(Role::Glass) : QColor(QString::fromStdString(part.colour)));
        p.drawRoundedRect(swatch, 2, 2);
        const PartResult* result =
            session_->results().evaluation() ? session_->results().evaluation()->part(part.id) : nullptr;
        bool failed = result && !result->all_ok();
        p.setPen(theme::colour(failed ? Role::Wrong : part.visible ? Role::Ink : Role::SoftInk));
        p.setFont(theme::words(13.5, active ? QFont::DemiBold : QFont::Medium));
        QString name = QString::fromStdString(part.name) + (part.stand_in ? ", stand-in" : "");
        if (failed) name += " · a step failed";
        p.drawText(QRectF(37, r.top(), width() - 37 - 112, r.height()), Qt::AlignVCenter,
                   p.fontMetrics().elidedText(name, Qt::ElideRight, width() - 150));
        if (!part.stand_in) {
            p.setFont(theme::numbers(12));
            p.setPen(theme::colour(Role::SoftInk));
            p.drawText(QRectF(width() - 110, r.top(), 34, r.height()), Qt::AlignVCenter | Qt::AlignRight,
                       "×" + QString::number(part.quantity));
        }
        if (!part.visible || hover_ == int(i) || active)
            theme::draw_icon(p, eye_rect(i), part.visible ? "eye" : "eye-off", theme::colour(Role::SoftInk));
        theme::draw_fit_ring(p, QRectF(width() - 36, r.center().y() - 9, 19, 19), ring_of(part));
    }
}

void Shelf::mousePressEvent(QMouseEvent* event) {
    int row = row_at(event->position());
    if (row < 0 || event->button() != Qt::LeftButton) return;
    const Part& part = *session_->project()->parts[size_t(row)];
    if (eye_rect(size_t(row)).adjusted(-4, -4, 4, 4).contains(event->position())) {
        session_->document().edit(SetVisible{part.id, !part.visible});
        return;
    }
    session_->workspace().clear_selection();
    session_->workspace().set_active_part(part.id);
}

void Shelf::mouseDoubleClickEvent(QMouseEvent* event) {
    int row = row_at(event->position());
    if (row >= 0 && event->position().x() < width() - 110) rename(size_t(row));
}

void Shelf::rename(size_t row) {
    if (row >= session_->project()->parts.size()) return;
    const Part& part = *session_->project()->parts[row];
    delete editor_;
    editor_ = new QLineEdit(QString::fromStdString(part.name), this);
    editor_->setGeometry(row_rect(row).adjusted(33, 1, -112, -1));
    editor_->setAccessibleName("Name of the part");
    editor_->selectAll();
    editor_->show();
    editor_->setFocus();
    connect(editor_, &QLineEdit::editingFinished, this, [this, id = part.id] {
        if (!editor_) return;
        QString text = editor_->text();
        editor_->blockSignals(true);
        editor_->deleteLater();
        editor_ = nullptr;
        session_->document().edit(RenamePart{id, text.toStdString()});
        setFocus();
    });
}

void Shelf::mouseMoveEvent(QMouseEvent* event) {
    int row = row_at(event->position());
    if (row == hover_) return;
    hover_ = row;
    update();
}

void Shelf::leaveEvent(QEvent*) {
    hover_ = -1;
    update();
}

bool Shelf::event(QEvent* event) {
    // Here F2 renames the part; elsewhere in the window the project.
    if (event->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(event)->key() == Qt::Key_F2) {
        event->accept();
        return true;
    }
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        int row = row_at(help->pos());
        if (row >= 0) {
            const Part& part = *session_->project()->parts[size_t(row)];
            QString text =
                QString::fromStdString(part.name) + ": " + QString::fromStdString(fit_state_words(ring_of(part)));
            const PartResult* result =
                session_->results().evaluation() ? session_->results().evaluation()->part(part.id) : nullptr;
            if (result && result->mesh)
                text += QString("\n%1 cm³, %2 body")
                            .arg(QString::fromStdString(format_number(result->mass.volume_mm3 / 1000, 2)),
                                 result->exact ? "exact" : "faceted");
            QToolTip::showText(help->globalPos(), text, this);
            return true;
        }
    }
    return QWidget::event(event);
}

void Shelf::keyPressEvent(QKeyEvent* event) {
    const auto& parts = session_->project()->parts;
    size_t row = 0;
    for (size_t i = 0; i < parts.size(); ++i)
        if (parts[i]->id == session_->workspace().active_part()) row = i;
    if (event->matches(QKeySequence::Paste)) return put_in();
    if (parts.empty()) return QWidget::keyPressEvent(event);
    const Part& part = *parts[row];
    if (event->matches(QKeySequence::Copy)) return copy(part.id);
    if (event->key() == Qt::Key_D && event->modifiers() == Qt::ControlModifier) return double_it(part.id);
    switch (event->key()) {
    case Qt::Key_Down:
        if (row + 1 < parts.size()) session_->workspace().set_active_part(parts[row + 1]->id);
        break;
    case Qt::Key_Up:
        if (row > 0) session_->workspace().set_active_part(parts[row - 1]->id);
        break;
    case Qt::Key_Space:
        session_->document().edit(SetVisible{part.id, !part.visible});
        break;
    case Qt::Key_F2:
    case Qt::Key_Return:
        rename(row);
        break;
    case Qt::Key_Delete:
        session_->document().edit(RemovePart{part.id});
        break;
    case Qt::Key_Plus:
        session_->document().edit(SetQuantity{part.id, part.quantity + 1});
        break;
    case Qt::Key_Minus:
        session_->document().edit(SetQuantity{part.id, std::max(0, part.quantity - 1)});
        break;
    case Qt::Key_Menu:
        open_menu(row, mapToGlobal(row_rect(row).bottomLeft() + QPoint(40, 0)));
        break;
    default:
        QWidget::keyPressEvent(event);
    }
}

void Shelf::double_it(PartId part) {
    auto edit = double_part(*session_->project(), part);
    if (edit && !session_->document().edit(*edit))
        session_->workspace().set_active_part(session_->project()->parts.back()->id);
}

/// With what it is made of, so that another project can take it, also one in another window.
void Shelf::copy(PartId part) {
    auto bytes = carried_part(*session_->project(), part);
    if (!bytes) return session_->say(QString::fromStdString(bytes.error().text()), true);
    auto* data = new QMimeData;
    data->setData(part_type, QByteArray::fromStdString(*bytes));
    data->setText(QString::fromStdString(session_->project()->part(part)->name));
    QApplication::clipboard()->setMimeData(data);
    session_->say("Copied " + data->text() + ". Ctrl+V on the shelf puts it in, in another project too.");
}

void Shelf::put_in() {
    const QByteArray bytes = QApplication::clipboard()->mimeData()->data(part_type);
    if (bytes.isEmpty()) return session_->say("Nothing was copied that is a part.", true);
    auto put = run_aside([&] { return unpacked_part(*session_->project(), bytes.toStdString()); });
    if (!put) return session_->say(QString::fromStdString(put.error().text()), true);
    if (session_->document().edit(put->edit)) return;
    session_->workspace().set_active_part(session_->project()->parts.back()->id);
    if (!put->notes.empty()) session_->say(QString::fromStdString(joined(put->notes, " ")), true);
}

void Shelf::contextMenuEvent(QContextMenuEvent* event) {
    int row = row_at(event->pos());
    if (row >= 0) open_menu(size_t(row), event->globalPos());
}

void Shelf::open_menu(size_t row, const QPoint& at) {
    const Part part = *session_->project()->parts[row];
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    auto act = [&](QMenu* where, const QString& words, Edit edit) {
        connect(where->addAction(words), &QAction::triggered, session_,
                [s = session_, edit] { s->document().edit(edit); });
    };
    connect(menu->addAction("Rename"), &QAction::triggered, this, [this, row] { rename(row); });
    act(menu, part.visible ? "Hide" : "Show", SetVisible{part.id, !part.visible});
    act(menu, part.see_through ? "Make solid" : "Make see-through", SetSeeThrough{part.id, !part.see_through});
    Edit alone;
    alone.sentence = "Showed only " + part.name;
    for (const PartPtr& other : session_->project()->parts)
        alone.parts.push_back(SetVisible{other->id, other->id == part.id});
    act(menu, "Show this alone", alone);
    Edit all;
    all.sentence = "Showed everything";
    for (const PartPtr& other : session_->project()->parts) all.parts.push_back(SetVisible{other->id, true});
    act(menu, "Show everything", all);
    if (!part.stand_in) {
        QMenu* colours = menu->addMenu("Filament colour");
        for (const auto& [name, value] : filament_colours()) {
            QPixmap swatch(16, 16);
            swatch.fill(QColor(value));
            act(colours, name, SetColour{part.id, value});
            colours->actions().back()->setIcon(QIcon(swatch));
        }
        act(menu, "One more", SetQuantity{part.id, part.quantity + 1});
        if (part.quantity > 0) act(menu, "One fewer", SetQuantity{part.id, part.quantity - 1});
    }
    act(menu, part.stand_in ? "Print it: no stand-in" : "Make it a stand-in", SetStandIn{part.id, !part.stand_in});
    menu->addSeparator();
    connect(menu->addAction("Double\tCtrl+D"), &QAction::triggered, this, [this, id = part.id] { double_it(id); });
    connect(menu->addAction("Copy\tCtrl+C"), &QAction::triggered, this, [this, id = part.id] { copy(id); });
    QAction* put = menu->addAction("Put in what was copied\tCtrl+V");
    connect(put, &QAction::triggered, this, &Shelf::put_in);
    put->setEnabled(QApplication::clipboard()->mimeData()->hasFormat(part_type));
    menu->addSeparator();
    act(menu, "Remove", RemovePart{part.id});
    menu->popup(at);
}

} // namespace lp
