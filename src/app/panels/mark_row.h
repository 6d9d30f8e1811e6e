// A row with a mark that is clicked or taken with Enter.
#pragma once
#include "app/theme/marks.h"
#include <QWidget>

namespace lp {

class Session;

/// "What is this?" in a menu at a place of the screen: opens that page of the guide.
void offer_help(Session* session, const QString& page, const QPoint& place);

/// A two-line row with a mark: title, numbers below; clicked or taken with Enter it becomes the active one.
class MarkRow : public QWidget {
    Q_OBJECT
  public:
    MarkRow(const QString& title, const QString& below, QWidget* parent);
    void set_mark(const theme::Mark& mark) { mark_ = mark; }
    void set_active(bool on);
    QString title() const { return title_; }
    QString below() const { return below_; }
    /// A menu on the row asks what it is: the page of the guide about it.
    void set_help(Session* session, const QString& page) { session_of_help_ = session, page_ = page; }
    QSize sizeHint() const override { return {300, 44}; }

  signals:
    void chosen();

  protected:
    void paint_ground(QPainter& painter); ///< active, under the pointer, in focus
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
    void enterEvent(QEnterEvent*) override { hover_ = true, update(); }
    void leaveEvent(QEvent*) override { hover_ = false, update(); }

  private:
    QString title_, below_, page_;
    Session* session_of_help_ = nullptr;
    theme::Mark mark_ = theme::Outcome::Sound;
    bool active_ = false, hover_ = false;
};

} // namespace lp
