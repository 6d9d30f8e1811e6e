// Sizes measured on a print, in the stretch Fit: what calipers say beside what was drawn teaches the printer card.
#pragma once
#include "app/widgets/column.h"

namespace lp {

class MeasuredSection : public QWidget {
    Q_OBJECT
  public:
    MeasuredSection(Session* session, QWidget* parent);
    /// The field for what was found of the active part's size number `i`; null beyond the last.
    ValueField* found_field(size_t i) const { return i < fields_.size() ? fields_[i] : nullptr; }

  private:
    void add_sizes(const Part& part, QVBoxLayout* column);
    void add_history(QVBoxLayout* column);
    Session* session_;
    std::vector<ValueField*> fields_;
};

} // namespace lp
