// Putting the parts together, in the stretch Fit: the order, the way of each, and a slider that takes the thing apart
// in the view.
#pragma once
#include "app/widgets/column.h"

class QPushButton;
class QSlider;
class QVBoxLayout;

namespace lp {

class ValueField;

class AssemblySection : public QWidget {
    Q_OBJECT
  public:
    AssemblySection(Session* session, QWidget* parent);
    QPushButton* begin_button() const { return begin_; }
    QSlider* slider() const { return slider_; }
    QString words() const; ///< of the part that is on its way
    /// The sentence of the n-th move.
    QString move_words(size_t move) const;
    QPushButton* earlier_button(size_t move) const;
    /// Chooses the part, and types the way it is led.
    QPushButton* way_button(size_t move) const;
    /// One more leg of the chosen part's way; null where none is chosen, or it is the first.
    ValueField* way_field() const { return way_field_; }

  signals:
    /// The way of the part is to be typed as soon as its field is there.
    void way_wanted(PartId part);

  private:
    void add_moves();
    void add_move(size_t i, QVBoxLayout* column);
    void add_way(const Part& part, QVBoxLayout* column);
    void tell();
    Session* session_;
    QPushButton* begin_ = nullptr;
    QSlider* slider_ = nullptr;
    QLabel* words_ = nullptr;
    std::vector<QLabel*> moves_;
    std::vector<QPushButton*> earlier_, ways_;
    ValueField* way_field_ = nullptr;
};

} // namespace lp
