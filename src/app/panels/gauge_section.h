// Gauges in the stretch Fit: coupons are added to the project, and what they felt like corrects the printer card.
#pragma once
#include "app/widgets/column.h"

class QPushButton;

namespace lp {

class GaugeSection : public QWidget {
    Q_OBJECT
  public:
    GaugeSection(Session* session, QWidget* parent);
    QPushButton* add_button() const { return add_; }
    /// Of the gauge that is a part: the field for the number that felt like a fit. For tests.
    ValueField* felt_field(const std::string& fit) const;

  private:
    void add_ladder_fields(QVBoxLayout* column);
    void add_gauge(const Part& part, QVBoxLayout* column);
    Session* session_;
    QPushButton* add_ = nullptr;
    std::map<std::string, ValueField*> felt_;
};

/// Adds the coupon as a part and makes it the active one.
void add_gauge_part(Session* session, const GaugeLadder& ladder);
/// Learns from a number of a gauge that felt like a fit; says what the card became.
void enter_felt(Session* session, PartId part, const std::string& fit, int number);

} // namespace lp
