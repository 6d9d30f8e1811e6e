#include "app/offers/act_panel.h"
#include "app/offers/offers_bar.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QListWidget>
#include <QPainter>
#include <QStandardItemModel>
#include <QStyledItemDelegate>
#include <set>

namespace lp {

using theme::Role;

namespace {

enum ItemRole { DrawingRole = Qt::UserRole + 1, LineRole, NeedsRole, GroupRole };

constexpr int row_height = 44;

/// A drawing, the name, what happens to the plastic; what is still to be chosen at the right.
class ActDelegate : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {200, row_height}; }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        const QRect r = option.rect.adjusted(2, 1, -2, -1);
        const bool on = option.state & QStyle::State_Selected, fits = index.data(NeedsRole).toString().isEmpty();
        if (on || option.state & QStyle::State_MouseOver) {
            p->setPen(on ? QPen(theme::colour(Role::Accent), 1.4) : QPen(Qt::NoPen));
            p->setBrush(theme::colour(Role::Wash));
            p->drawRoundedRect(QRectF(r).adjusted(0.7, 0.7, -0.7, -0.7), 4, 4);
        }
        theme::draw_act(*p, QRectF(r.left() + 8, r.center().y() - 13, 26, 26), index.data(DrawingRole).toString(),
                        theme::colour(fits ? Role::Ink : Role::SoftInk));
        QString right = fits ? index.data(GroupRole).toString() : index.data(NeedsRole).toString();
        p->setFont(theme::words(11.5));
        const int width = p->fontMetrics().horizontalAdvance(right);
        p->setPen(theme::colour(Role::SoftInk));
        p->drawText(r.adjusted(0, 0, -10, 0), Qt::AlignRight | Qt::AlignVCenter, right);
        QRect text = r.adjusted(46, 3, -width - 24, -3);
        p->setFont(theme::words(13.5, QFont::DemiBold));
        p->setPen(theme::colour(fits ? Role::Ink : Role::SoftInk));
        p->drawText(text, Qt::AlignLeft | Qt::AlignTop, index.data(Qt::DisplayRole).toString());
        p->setFont(theme::words(12));
        p->setPen(theme::colour(Role::SoftInk));
        p->drawText(text, Qt::AlignLeft | Qt::AlignBottom,
                    p->fontMetrics().elidedText(index.data(LineRole).toString(), Qt::ElideRight, text.width()));
        p->restore();
    }
};

} // namespace

ActPanel::ActPanel(OffersBar* offers, QWidget* over) : QFrame(over), offers_(offers), over_(over) {
    setObjectName("act-panel");
    setAccessibleName("All that can be done");
    hide();
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(10, 8, 10, 6);
    rows->setSpacing(6);
    line_ = new QLineEdit(this);
    line_->setObjectName("say");
    line_->setPlaceholderText("Look for it by words; numbers may follow:  cylinder 6 20");
    line_->setAccessibleName("Say what to do");
    line_->setFont(theme::words(14));
    line_->setMinimumHeight(32);
    rows->addWidget(line_);
    auto* columns = new QHBoxLayout;
    columns->setSpacing(8);
    groups_ = new QListWidget(this);
    groups_->setObjectName("act-groups");
    groups_->setAccessibleName("Groups");
    groups_->setFixedWidth(172);
    entries_ = new QListView(this);
    entries_->setObjectName("act-entries");
    entries_->setAccessibleName("What can be done");
    entries_->setItemDelegate(new ActDelegate(entries_));
    entries_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    entries_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    entries_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    entries_->setMouseTracking(true);
    model_ = new QStandardItemModel(this);
    entries_->setModel(model_);
    columns->addWidget(groups_);
    columns->addWidget(entries_, 1);
    rows->addLayout(columns, 1);
    says_ = new QLabel(this);
    says_->setFont(theme::words(12));
    rows->addWidget(says_);
    for (QWidget* w : std::initializer_list<QWidget*>{line_, groups_, entries_, over}) w->installEventFilter(this);
    connect(line_, &QLineEdit::textChanged, this, [this] {
        by_hand_ = false;
        list();
    });
    connect(groups_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row < 0) return;
        by_hand_ = true;
        list();
    });
    connect(entries_, &QListView::clicked, this, [this] {
        by_hand_ = true;
        take();
    });
}

void ActPanel::open() {
    acts_ = offers_->all_acts();
    by_hand_ = false;
    const bool chosen = offers_->has_selection();
    std::set<ActGroup> there;
    for (const Act& act : acts_) there.insert(act.group);
    {
        QSignalBlocker quiet(groups_), still(line_);
        line_->clear();
        groups_->clear();
        groups_->addItem(chosen ? "For what is chosen" : "To begin with");
        groups_->item(0)->setData(Qt::UserRole, -1);
        for (ActGroup group : there) {
            groups_->addItem(group_words(group));
            groups_->item(groups_->count() - 1)->setData(Qt::UserRole, int(group));
        }
        groups_->setCurrentRow(0);
    }
    list();
    place();
    show();
    raise();
    line_->setFocus();
}

/// The lower part of the view, whatever its size.
void ActPanel::place() {
    const int width = std::min(over_->width() - 24, 900), height = std::min(over_->height() - 24, 420);
    setGeometry((over_->width() - width) / 2, over_->height() - height - 10, width, height);
}

void ActPanel::list() {
    const ActQuery query = query_of(line_->text());
    const QListWidgetItem* current = groups_->currentItem();
    const int group = current ? current->data(Qt::UserRole).toInt() : -1;
    std::vector<std::pair<int, const Act*>> found;
    for (const Act& act : acts_) {
        const int like = likeness(act, query.words);
        // By words over all groups; without any, one group. The first holds what fits the selection.
        const bool in =
            !query.words.isEmpty() || (group < 0 ? act.fits() && offers_->begins_with(act) : int(act.group) == group);
        if (like && in) found.emplace_back(like, &act);
    }
    std::stable_sort(found.begin(), found.end(), [&](const auto& a, const auto& b) {
        if (group < 0 && query.words.isEmpty() && a.second->for_selection != b.second->for_selection)
            return a.second->for_selection;
        if (a.second->fits() != b.second->fits() && (query.words.isEmpty() || a.first == b.first))
            return a.second->fits();
        return a.first > b.first;
    });
    model_->clear();
    listed_.clear();
    for (const auto& [like, act] : found) {
        auto* item = new QStandardItem(act->words);
        item->setData(act->id, DrawingRole);
        item->setData(act->line, LineRole);
        item->setData(act->needs, NeedsRole);
        item->setData(query.words.isEmpty() ? QString() : group_words(act->group), GroupRole);
        item->setData(act->words + ". " + act->line + (act->fits() ? "" : " First " + act->needs + "."),
                      Qt::AccessibleTextRole);
        item->setToolTip(act->line);
        model_->appendRow(item);
        listed_.push_back(act);
    }
    if (!listed_.empty()) entries_->setCurrentIndex(model_->index(0, 0));
    says_->setStyleSheet(QString("color: %1").arg(theme::css(Role::SoftInk)));
    says_->setText(listed_.empty() ? "Nothing here is called that."
                                   : "Up, Down: choose · Tab: groups · Enter: do it · Esc: back");
}

void ActPanel::take() {
    const ActQuery query = query_of(line_->text());
    const int row = entries_->currentIndex().row();
    const Act* act = row >= 0 && size_t(row) < listed_.size() ? listed_[size_t(row)] : nullptr;
    // A whole sentence is done as it says; else the entry that is marked. "screw joint" with a face chosen is the
    // beginning of "Screw joint here", and that is marked.
    const QString typed = line_->text().trimmed();
    const bool begins = act && (act->for_selection || act->of_drawing) && act->fits() && query.numbers.isEmpty() &&
                        !typed.isEmpty() && act->words.startsWith(typed, Qt::CaseInsensitive);
    std::optional<QString> wrong;
    if ((by_hand_ || begins) && act)
        wrong = act->run(query.numbers);
    else if (auto said = line_->text().isEmpty() ? std::optional<QString>("Choose something first.")
                                                 : offers_->do_line(line_->text());
             said)
        wrong = act ? act->run(query.numbers) : said;
    if (!wrong) return put_away();
    says_->setStyleSheet(QString("color: %1").arg(theme::css(Role::Wrong)));
    says_->setText(*wrong);
}

/// The keys go back to the view, unless what was done has taken them.
void ActPanel::put_away() {
    if (isHidden()) return;
    // The focus of this window, also while a dialog that was asked is still going.
    if (isAncestorOf(window()->focusWidget())) emit keys_back();
    hide();
}

QString ActPanel::says() const {
    return says_->text();
}

void ActPanel::move_by(int rows) {
    if (listed_.empty()) return;
    by_hand_ = true;
    const int row = std::clamp(entries_->currentIndex().row() + rows, 0, int(listed_.size()) - 1);
    entries_->setCurrentIndex(model_->index(row, 0));
}

bool ActPanel::handle_key(QObject* object, QKeyEvent* key) {
    switch (key->key()) {
    case Qt::Key_Escape:
        put_away();
        return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        take();
        return true;
    case Qt::Key_Up:
    case Qt::Key_Down:
        if (object == groups_) return false;
        move_by(key->key() == Qt::Key_Up ? -1 : 1);
        return true;
    case Qt::Key_PageUp:
    case Qt::Key_PageDown:
        if (object == groups_) return false;
        move_by((key->key() == Qt::Key_PageUp ? -1 : 1) * std::max(1, entries_->height() / row_height - 1));
        return true;
    case Qt::Key_Tab:
        (object == groups_ ? static_cast<QWidget*>(line_) : groups_)->setFocus(Qt::TabFocusReason);
        return true;
    case Qt::Key_Backtab:
        (object == line_ ? static_cast<QWidget*>(groups_) : line_)->setFocus(Qt::BacktabFocusReason);
        return true;
    default:
        if (object == line_ || key->text().isEmpty() || !key->text()[0].isPrint()) return false;
        line_->setFocus(); // typing looks for words wherever the hand is
        line_->insert(key->text());
        return true;
    }
}

bool ActPanel::eventFilter(QObject* object, QEvent* event) {
    if (object == over_) {
        if (event->type() == QEvent::Resize && isVisible()) place();
        if (event->type() == QEvent::MouseButtonPress && isVisible()) put_away(); // a click beside it
        return false;
    }
    return event->type() == QEvent::KeyPress && handle_key(object, static_cast<QKeyEvent*>(event));
}

} // namespace lp
