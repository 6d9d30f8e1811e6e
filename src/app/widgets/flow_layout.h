// Lays widgets out like words in a paragraph.
#pragma once
#include <QLayout>
#include <vector>

namespace lp {

class FlowLayout : public QLayout {
  public:
    explicit FlowLayout(QWidget* parent, int gap_x = 4, int gap_y = 1);
    ~FlowLayout() override;
    void addItem(QLayoutItem* item) override { items_.push_back(item); }
    int count() const override { return int(items_.size()); }
    QLayoutItem* itemAt(int index) const override;
    QLayoutItem* takeAt(int index) override;
    Qt::Orientations expandingDirections() const override { return {}; }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override { return arrange(QRect(0, 0, width, 0), true); }
    void setGeometry(const QRect& rect) override;
    QSize sizeHint() const override { return minimumSize(); }
    QSize minimumSize() const override;

  private:
    int arrange(const QRect& rect, bool only_measure) const;
    std::vector<QLayoutItem*> items_;
    int gap_x_, gap_y_;
};

} // namespace lp
