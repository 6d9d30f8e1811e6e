// Prints that were timed, on the printer card: what was told and what they took makes the times told from then on.
#pragma once
#include "app/widgets/column.h"

namespace lp {

class PrintTimes : public QWidget {
    Q_OBJECT
  public:
    PrintTimes(Session* session, QWidget* parent);
    /// "22 h, 29.4 h": told and taken.
    ValueField* field() const { return field_; }

  private:
    void enter(const QString& typed);
    void add_line(size_t nth, QVBoxLayout* column);

    Session* session_;
    ValueField* field_ = nullptr;
};

/// "multiplied by 1.21, from 2 prints; the furthest lies 5 % off"; empty without any.
QString print_times_words(const PrinterCard& card);

} // namespace lp
