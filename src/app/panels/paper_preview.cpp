#include "app/panels/paper_preview.h"
#include "app/theme/theme.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPdfDocument>
#include <QPdfView>
#include <QPushButton>
#include <QScrollBar>
#include <QVBoxLayout>

namespace lp {

PaperPreview::PaperPreview(const QByteArray& pdf, const QString& called, QWidget* parent) : QDialog(parent) {
    QString title = called;
    title[0] = title[0].toUpper();
    setWindowTitle(title);
    bytes_.setData(pdf);
    bytes_.open(QIODevice::ReadOnly);
    document_ = new QPdfDocument(this);
    document_->load(&bytes_);
    view_ = new QPdfView(this);
    view_->setDocument(document_);
    view_->setPageMode(QPdfView::PageMode::MultiPage);
    view_->setAccessibleName("Pages of the " + called);
    view_->setFrameShape(QFrame::NoFrame);
    auto* line = new QHBoxLayout;
    line->setContentsMargins(theme::margin, 6, theme::margin, 6);
    line->setSpacing(8);
    line->addWidget(new QLabel(QString("%1 %2").arg(page_count()).arg(page_count() == 1 ? "page" : "pages"), this));
    line->addStretch();
    whole_ = new QPushButton("Whole pages", this);
    whole_->setCheckable(true);
    connect(whole_, &QPushButton::toggled, this, &PaperPreview::show_whole);
    write_ = new QPushButton("Write it as PDF", this);
    write_->setProperty("primary", true);
    connect(write_, &QPushButton::clicked, this, [this] {
        emit write_wanted();
        accept();
    });
    auto* close = new QPushButton("Close", this);
    connect(close, &QPushButton::clicked, this, &QDialog::reject);
    for (QPushButton* button : {whole_, close, write_}) {
        button->setAutoDefault(false);
        line->addWidget(button);
    }
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(view_, 1);
    column->addLayout(line);
    const QSize room = parent ? parent->window()->size() : QSize(1000, 800);
    resize(std::min(900, room.width() - 80), std::max(400, room.height() - 60));
    show_whole(false);
    view_->setFocus();
}

/// The view draws in a thread of its own: it goes first, then what it draws from.
PaperPreview::~PaperPreview() {
    delete view_;
    delete document_;
}

int PaperPreview::page_count() const {
    return document_->pageCount();
}

void PaperPreview::show_whole(bool whole) {
    view_->setZoomMode(whole ? QPdfView::ZoomMode::FitInView : QPdfView::ZoomMode::FitToWidth);
}

/// The pages themselves know the keys that go by lines and pages.
void PaperPreview::keyPressEvent(QKeyEvent* event) {
    QScrollBar* bar = view_->verticalScrollBar();
    if (event->key() == Qt::Key_Home) return bar->setValue(0);
    if (event->key() == Qt::Key_End) return bar->setValue(bar->maximum());
    QDialog::keyPressEvent(event);
}

} // namespace lp
