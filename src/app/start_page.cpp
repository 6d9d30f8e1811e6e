#include "app/start_page.h"
#include "app/recent.h"
#include "app/scene_builder.h"
#include "app/templates.h"
#include "app/theme/theme.h"
#include "app/widgets/flow_layout.h"
#include <QContextMenuEvent>
#include <QFileInfo>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>

namespace lp {

using theme::Role;

namespace {

/// A picture with a name and a line below it, pressed as one.
class PictureButton : public QPushButton {
  public:
    PictureButton(const QImage& picture, const QString& name, const QString& line, QWidget* parent)
        : QPushButton(parent), picture_(QPixmap::fromImage(picture)), name_(name), line_(line) {
        setFixedSize(196, 134);
        setAccessibleName(name);
        setAccessibleDescription(line);
        setToolTip(line);
    }

    /// By Delete and by its menu.
    std::function<void()> remove;

  protected:
    void keyPressEvent(QKeyEvent* event) override {
        if (remove && event->key() == Qt::Key_Delete) return remove();
        QPushButton::keyPressEvent(event);
    }
    void contextMenuEvent(QContextMenuEvent* event) override {
        if (!remove) return QPushButton::contextMenuEvent(event);
        QMenu menu;
        menu.addAction("Remove the template");
        if (menu.exec(event->globalPos())) remove();
    }
    void paintEvent(QPaintEvent* event) override {
        QPushButton::paintEvent(event);
        QPainter p(this);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        const QRect at(5, 5, width() - 10, 84);
        if (!picture_.isNull()) {
            QSize size = picture_.size().scaled(at.size(), Qt::KeepAspectRatioByExpanding);
            p.setClipRect(at);
            p.drawPixmap(QRect(at.center() - QPoint(size.width() / 2, size.height() / 2), size), picture_);
            p.setClipping(false);
        } else {
            p.fillRect(at, theme::colour(Role::ViewBottom));
        }
        p.setPen(theme::colour(Role::Ink));
        p.setFont(theme::words(13, QFont::Bold));
        p.drawText(QRect(8, 91, width() - 16, 20), Qt::AlignVCenter,
                   p.fontMetrics().elidedText(name_, Qt::ElideRight, width() - 16));
        p.setPen(theme::colour(Role::SoftInk));
        p.setFont(theme::words(11));
        p.drawText(QRect(8, 110, width() - 16, 18), Qt::AlignVCenter,
                   p.fontMetrics().elidedText(line_, Qt::ElideMiddle, width() - 16));
    }

  private:
    QPixmap picture_;
    QString name_, line_;
};

QLabel* heading(const QString& words, QWidget* parent) {
    auto* label = new QLabel(words, parent);
    label->setFont(theme::words(13.5, QFont::ExtraBold));
    return label;
}

} // namespace

StartPage::StartPage(QWidget* parent) : QScrollArea(parent) {
    setWidgetResizable(true);
    setFocusPolicy(Qt::NoFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setObjectName("start-page");
    setAccessibleName("Ways to begin");
}

void StartPage::refresh() {
    auto* page = new QWidget;
    page->setObjectName("start-page-inside");
    page->setStyleSheet("QWidget#start-page-inside { background: transparent; }");
    auto* rows = new QVBoxLayout(page);
    rows->setSpacing(8);
    rows->setContentsMargins(4, 4, 4, 4);
    rows->addWidget(new QLabel("<span style='font-size:20px;font-weight:800'>Nothing here yet</span><br>Measure "
                               "something real, and shape a part round it.",
                               page));
    auto flow = [&] {
        auto* holder = new QWidget(page);
        rows->addWidget(holder);
        return new FlowLayout(holder, 8, 8);
    };
    add_ways(flow());
    auto add_all = [&](const QString& title, const std::vector<Example>& all) {
        if (all.empty()) return;
        rows->addSpacing(6);
        rows->addWidget(heading(title, page));
        FlowLayout* grid = flow();
        for (size_t i = 0; i < all.size() && i < 8; ++i) {
            auto* button = new PictureButton(all[i].picture, all[i].name, all[i].says, page);
            connect(button, &QPushButton::clicked, this, [this, path = all[i].path] { emit project_wanted(path); });
            grid->addWidget(button);
        }
    };
    add_templates(rows);
    add_all("Examples, all from one allotment", examples());
    std::vector<Example> last;
    for (const RecentProject& recent : recent_projects())
        last.push_back({recent.path, recent.name,
                        QFileInfo(recent.path).fileName() + " in " + QFileInfo(recent.path).path(), recent.picture});
    add_all("The last projects", last);
    rows->addStretch();
    setWidget(page); // the page there was goes
    viewport()->setAutoFillBackground(false);
    page->setAutoFillBackground(false);
}

/// Kept ones come first: who keeps one begins with it.
void StartPage::add_templates(QVBoxLayout* rows) {
    const std::vector<Example> kept = kept_templates();
    if (kept.empty()) return;
    QWidget* page = rows->parentWidget();
    rows->addSpacing(6);
    rows->addWidget(heading("Your templates", page));
    auto* holder = new QWidget(page);
    rows->addWidget(holder);
    auto* grid = new FlowLayout(holder, 8, 8);
    for (const Example& one : kept) {
        auto* button = new PictureButton(one.picture, one.name, one.says, page);
        button->setToolTip(one.says + ". Delete removes the template.");
        connect(button, &QPushButton::clicked, this, [this, path = one.path] { emit template_wanted(path); });
        button->remove = [this, path = one.path] {
            if (const auto failed = forget_template(path)) emit refused(QString::fromStdString(failed->text()));
            QTimer::singleShot(0, this, &StartPage::refresh); // this button goes with it
        };
        grid->addWidget(button);
    }
}

void StartPage::place(const QSize& room) {
    if (!widget()) return;
    const int wide = std::min(860, room.width() - 8);
    const int tall = widget()->layout()->totalHeightForWidth(wide - 12) + 8;
    const QSize size(wide, std::min(tall > 0 ? tall : 400, room.height() - 64)); // the view's own buttons stay free
    if (size == this->size() && pos().x() == (room.width() - size.width()) / 2) return;
    setGeometry((room.width() - size.width()) / 2, std::max(56, (room.height() - size.height()) / 2 - 20), size.width(),
                size.height());
}

void StartPage::add_ways(FlowLayout* row) {
    auto way = [&](const QString& text, auto signal) {
        auto* button = new QPushButton(text, row->parentWidget());
        button->setMinimumHeight(34);
        connect(button, &QPushButton::clicked, this, signal);
        row->addWidget(button);
    };
    way("Start with a block", [this] { emit block_wanted(); });
    way("Draw an outline", [this] { emit outline_wanted(); });
    way("Bring in a mesh …", [this] { emit bring_in_wanted(); });
    way("Open a project …", [this] { emit open_wanted(); });
    way("See the demo: a rain gauge", [this] { emit project_wanted(demo_project_path()); });
}

} // namespace lp
