// All that can be done, over the view's lower part: groups, entries with a drawing and a line, a line to look for them
// by words, with numbers behind.
#pragma once
#include "app/offers/act.h"
#include <QFrame>

class QLabel;
class QLineEdit;
class QListView;
class QListWidget;
class QStandardItemModel;

namespace lp {

class OffersBar;

class ActPanel : public QFrame {
    Q_OBJECT
  public:
    ActPanel(OffersBar* offers, QWidget* over);
    void open();
    QLineEdit* line() const { return line_; }
    QListWidget* groups() const { return groups_; }
    QListView* entries() const { return entries_; }
    QString says() const; ///< what can be done here, or why what was typed cannot
    /// Acts as they are listed now.
    const std::vector<const Act*>& listed() const { return listed_; }

  signals:
    void keys_back(); ///< it closed and nobody else took the keys

  protected:
    bool eventFilter(QObject* object, QEvent* event) override;

  private:
    void place();
    void list();
    void take();
    void put_away();
    void move_by(int rows);
    bool handle_key(QObject* object, class QKeyEvent* key);

    OffersBar* offers_;
    QWidget* over_;
    QLineEdit* line_;
    QLabel* says_;
    QListWidget* groups_;
    QListView* entries_;
    QStandardItemModel* model_;
    std::vector<Act> acts_;
    std::vector<const Act*> listed_;
    bool by_hand_ = false; ///< the entry was chosen by arrows or the pointer
};

} // namespace lp
