// The printer and material cards in the stretch Fit, the maker's kept cards, and the look-up of metal fits.
#pragma once
#include "app/widgets/column.h"

namespace lp {

class PrintTimes;

class CardSection : public QWidget {
    Q_OBJECT
  public:
    CardSection(Session* session, QWidget* parent);
    ValueField* field(const std::string& name) const; ///< by the card's JSON key; "metal" for the look-up

    PrintTimes* times() const { return times_; }

  private:
    void add_printer(QVBoxLayout* column);
    void add_infill(QVBoxLayout* column);
    void add_material(QVBoxLayout* column);
    void add_metal(QVBoxLayout* column);
    Session* session_;
    PrintTimes* times_ = nullptr;
    std::map<std::string, ValueField*> fields_;
};

} // namespace lp
