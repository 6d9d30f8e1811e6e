// Lays widgets out like words in a paragraph.
#pragma once
#include <QLayout>
#include <map>
#include <vector>

namespace lp {

class FlowLayout : public QLayout {
  public:
    explicit FlowLayout(QWidget* parent, int gap_x = 4, int gap_y = 1);
    ~FlowLayout() override;
    void addItem(QLayoutItem* item) override;
    int count() const override { return int(items_.size()); }
    QLayoutItem* itemAt(int index) const override;
    QLayoutItem* takeAt(int index) override;
    Qt::Orientations expandingDirections() const override { return {}; }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;
    void invalidate() override;
    void setGeometry(const QRect& rect) override;
    QSize sizeHint() const override { return minimumSize(); }
    QSize minimumSize() const override;

  private:
    int arrange(const QRect& rect, bool only_measure) const;
    std::vector<QLayoutItem*> items_;
    std::vector<bool> sticks_; ///< of the items: such as a comma, to the word before it
    QRect laid_out_;           ///< where it was last; null after a change
    int gap_x_, gap_y_;
    mutable std::map<int, int> heights_; ///< by width: asked for again and again while others are laid out
};

} // namespace lp
