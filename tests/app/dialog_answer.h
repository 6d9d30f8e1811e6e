// Types a name into the next file dialog and presses Enter, as often as it takes: on a busy machine the dialog opens
// late, and its list of names may stand open when Enter comes, which then only closes the list.
#pragma once
#include <QApplication>
#include <QFileDialog>
#include <QLineEdit>
#include <QTest>
#include <QTimer>

namespace lp {

class DialogAnswer : public QObject {
  public:
    /// `folder`: for a dialog that asks for one.
    explicit DialogAnswer(const QString& file, const QString& folder = {}) : file_(file), folder_(folder) {
        connect(&again_, &QTimer::timeout, this, [this] { answer(); });
        again_.start(200);
    }
    std::string said() const { return "answered " + std::to_string(tries_) + " times"; }

  private:
    void answer() {
        auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
        auto* name = dialog ? dialog->findChild<QLineEdit*>() : nullptr;
        if (!name || !name->isVisible()) return;
        if (++tries_ > 20) return dialog->reject();
        const QString& wanted = dialog->fileMode() == QFileDialog::Directory ? folder_ : file_;
        if (name->text() != wanted) {
            name->clear();
            QTest::keyClicks(name, wanted);
        }
        QTest::keyClick(name, Qt::Key_Return);
    }
    QTimer again_;
    QString file_, folder_;
    int tries_ = 0;
};

} // namespace lp
