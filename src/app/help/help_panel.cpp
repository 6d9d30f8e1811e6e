#include "app/help/help_panel.h"
#include "app/help/help_pages.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPushButton>
#include <QTextBlock>
#include <QTextBrowser>
#include <QTextDocument>

namespace lp {

using theme::Role;

namespace {

constexpr int panel_width = 380;

/// Shows the pictures that ship: pages name them as they lie in the repository.
class Pages : public QTextBrowser {
  public:
    using QTextBrowser::QTextBrowser;
    QVariant loadResource(int type, const QUrl& name) override {
        const QString path = name.toString().section("data/", 1);
        if (type != QTextDocument::ImageResource || path.isEmpty()) return {};
        const QImage picture(":/loose-peg/" + path);
        return picture.isNull() ? picture : picture.scaledToWidth(panel_width - 48, Qt::SmoothTransformation);
    }
};

} // namespace

HelpPanel::HelpPanel(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("help");
    setAccessibleName("Help");
    setFixedWidth(panel_width);
    theme::give_ground(this, Role::Card);
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(10, 8, 10, 8);
    rows->setSpacing(6);
    auto* head = new QHBoxLayout;
    back_ = new QPushButton("Back", this);
    back_->setEnabled(false);
    back_->setAccessibleName("The page before");
    pages_ = new QComboBox(this);
    pages_->setAccessibleName("Pages of the guide");
    for (const auto& [name, title] : guide_pages()) pages_->addItem(title, name);
    auto* close = new QPushButton(this);
    close->setIcon(theme::line_icon("close"));
    close->setFlat(true);
    close->setFixedSize(28, 28);
    close->setStyleSheet("padding: 0;");
    close->setAccessibleName("Close the help");
    head->addWidget(back_);
    head->addWidget(pages_, 1);
    head->addWidget(close);
    rows->addLayout(head);
    text_ = new Pages(this);
    text_->setOpenLinks(false);
    text_->setAccessibleName("Help page");
    text_->setFont(theme::words(13.5));
    text_->document()->setDefaultStyleSheet(QString("a { color: %1 }").arg(theme::css(Role::Accent)));
    rows->addWidget(text_, 1);
    connect(back_, &QPushButton::clicked, this, [this] {
        if (before_.isEmpty()) return;
        const QString page = before_.takeLast();
        show_page(page);
    });
    connect(pages_, &QComboBox::activated, this, [this](int i) { open(pages_->itemData(i).toString()); });
    connect(close, &QPushButton::clicked, this, &HelpPanel::closed);
    connect(text_, &QTextBrowser::anchorClicked, this, [this](const QUrl& to) { open(to.toString()); });
    hide();
}

void HelpPanel::open(const QString& page) {
    const QString name = page.section('#', 0, 0).remove(".md");
    if (name.isEmpty() || help_page(name, *session_).isEmpty()) return;
    if (!page_.isEmpty() && page_ != name) before_ << page_;
    show_page(name);
}

void HelpPanel::show_page(const QString& page) {
    page_ = page;
    text_->setMarkdown(help_page(page, *session_));
    // Headings of a side panel are no larger than the words of the window.
    for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
        QTextCursor cursor(block);
        QTextBlockFormat format = block.blockFormat();
        format.setLineHeight(118, QTextBlockFormat::ProportionalHeight);
        if (format.headingLevel() > 0) {
            format.setTopMargin(format.headingLevel() == 1 ? 2 : 10);
            format.setBottomMargin(3);
            cursor.select(QTextCursor::BlockUnderCursor);
            QTextCharFormat letters;
            letters.setFont(theme::words(format.headingLevel() == 1 ? 18 : 14.5, QFont::ExtraBold));
            cursor.mergeCharFormat(letters);
        } else {
            format.setBottomMargin(4);
        }
        cursor.mergeBlockFormat(format);
    }
    text_->moveCursor(QTextCursor::Start);
    back_->setEnabled(!before_.isEmpty());
    pages_->setCurrentIndex(pages_->findData(page)); // none of them for a page of one thing
    if (pages_->currentIndex() < 0) pages_->setPlaceholderText("All pages");
}

QString HelpPanel::text() const {
    return text_->toPlainText();
}

void HelpPanel::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) return emit closed();
    QWidget::keyPressEvent(event);
}

} // namespace lp
