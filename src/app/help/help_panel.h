// The guide beside the view: pages, back and forward by links, and the page of what is at hand.
#pragma once
#include "app/session.h"
#include <QWidget>

class QComboBox;
class QTextBrowser;
class QPushButton;

namespace lp {

class HelpPanel : public QWidget {
    Q_OBJECT
  public:
    HelpPanel(Session* session, QWidget* parent);
    void open(const QString& page);
    QString page() const { return page_; }
    QString text() const;
    QTextBrowser* browser() const { return text_; }

  signals:
    void closed();

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    void show_page(const QString& page);
    Session* session_;
    QComboBox* pages_;
    QPushButton* back_;
    QTextBrowser* text_;
    QString page_;
    QStringList before_; ///< pages to go back to
};

} // namespace lp
