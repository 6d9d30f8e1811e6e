// The window's dealings with files: opening, bringing in, saving, leaving, what was left behind, what is dropped on it.
#include "app/file_filter.h"
#include "app/main_window.h"
#include "app/offers/offers_bar.h"
#include "app/recent.h"
#include "app/theme/theme.h"
#include "app/view/view_widget.h"
#include <QBuffer>
#include <QCloseEvent>
#include <QDropEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>

namespace lp {

using theme::Role;

void MainWindow::ask_open() {
    if (!may_leave()) return;
    QString path = QFileDialog::getOpenFileName(this, "Open a project", {}, "Projects (*.loosepeg *.json)");
    if (!path.isEmpty()) session_->document().open(path);
}

void MainWindow::ask_bring_in() {
    QStringList files =
        QFileDialog::getOpenFileNames(this, "Bring in bodies", {}, file_filter("Bodies", false) + ";;" + plan_filter());
    if (!files.isEmpty()) session_->bring_in(files);
}

bool MainWindow::save_to(const QString& path) {
    QByteArray png;
    QBuffer buffer(&png);
    buffer.open(QIODevice::WriteOnly);
    QImage picture = view_->picture();
    if (!picture.isNull()) picture.scaled(512, 320, Qt::KeepAspectRatio, Qt::SmoothTransformation).save(&buffer, "PNG");
    if (!session_->document().save(path, png)) return false;
    remember(path, picture);
    return true;
}

/// Among the last projects; written beside the interface thread.
void MainWindow::remember(const QString& path, const QImage& picture) {
    session_->worker().start(Lane::Save, "recent",
                             [path, picture, name = QString::fromStdString(session_->project()->name)](const Task&) {
                                 note_recent(path, name, picture);
                             });
}

bool MainWindow::ask_save(bool anew) {
    QString path = session_->document().path();
    if (anew || path.isEmpty()) {
        path = QFileDialog::getSaveFileName(
            this, "Save the project",
            path.isEmpty() ? QString::fromStdString(file_name_of(session_->project()->name)) + ".loosepeg" : path,
            "Projects (*.loosepeg)");
        if (path.isEmpty()) return false;
        if (!path.endsWith(".loosepeg")) path += ".loosepeg";
    }
    return save_to(path);
}

bool MainWindow::may_leave() {
    if (!session_->document().changed()) return true;
    QMessageBox ask(QMessageBox::NoIcon, "Not saved",
                    "“" + QString::fromStdString(session_->project()->name) + "” has changes that are not saved.",
                    QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    ask.button(QMessageBox::Discard)->setText("Let them go");
    int answer = ask.exec();
    if (answer == QMessageBox::Save) return ask_save(false);
    return answer == QMessageBox::Discard;
}

void MainWindow::offer_recovery() {
    auto left = session_->document().left_behind();
    if (left.empty()) return;
    recovery_ = new QWidget(view_);
    recovery_->setObjectName("recovery");
    theme::give_ground(recovery_, Role::Card);
    auto* row = new QHBoxLayout(recovery_);
    auto* words = new QLabel(
        "“" + QString::fromStdString(left.front().name) + "” was not saved when the program ended.", recovery_);
    words->setWordWrap(true);
    row->addWidget(words, 1);
    auto* back = new QPushButton("Bring it back", recovery_);
    back->setProperty("primary", true);
    auto* away = new QPushButton("Let it go", recovery_);
    row->addWidget(back);
    row->addWidget(away);
    connect(back, &QPushButton::clicked, this, [this, first = left.front()] {
        session_->document().recover(first);
        recovery_->deleteLater();
    });
    connect(away, &QPushButton::clicked, this, [this, first = left.front()] {
        std::error_code error; // only what is named here; what else was left is offered next
        std::filesystem::remove(first.file, error);
        recovery_->deleteLater();
        offer_recovery();
    });
    auto place = [this, bar = recovery_] {
        const int wide = std::min(600, view_->width() - 24);
        bar->setGeometry(12, 56, wide, std::max(bar->sizeHint().height(), bar->layout()->totalHeightForWidth(wide)));
    };
    place();
    connect(view_, &ViewWidget::drawn, recovery_, place);
    recovery_->show();
    recovery_->raise();
}

void MainWindow::keyPressEvent(QKeyEvent* event) {
    const bool plain = !(event->modifiers() & ~Qt::KeypadModifier);
    if (plain && event->key() >= Qt::Key_1 && event->key() <= Qt::Key_9) return offers_->take(event->key() - Qt::Key_0);
    if (event->key() == Qt::Key_Slash) return offers_->open_panel();
    if (event->key() == Qt::Key_Escape) return session_->workspace().clear_selection();
    QMainWindow::keyPressEvent(event);
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (!may_leave()) return event->ignore();
    session_->document().close_in_peace();
    event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    QStringList files;
    bool project = false;
    for (const QUrl& url : event->mimeData()->urls())
        if (url.isLocalFile()) {
            files << url.toLocalFile();
            project = project || url.path().endsWith(".loosepeg") || url.path().endsWith(".json");
        }
    if (files.isEmpty()) return;
    event->acceptProposedAction();
    if (project && !may_leave()) return;
    session_->bring_in(files);
}

} // namespace lp
