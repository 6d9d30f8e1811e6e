// The project's named numbers as a table: name, expression, value, unit, note and where each is used.
#pragma once
#include "app/session.h"
#include <QDialog>

class QComboBox;
class QLabel;
class QTableWidget;

namespace lp {

class ReadingsLine;

class NumbersTable : public QDialog {
    Q_OBJECT
  public:
    NumbersTable(Session* session, QWidget* parent);
    QTableWidget* table() const { return table_; }
    QLabel* says() const { return says_; }
    ReadingsLine* readings() const { return readings_; }
    void add();    ///< a new row with a free name, its name being edited
    void remove(); ///< the current row; refused, with the places, while in use

  private:
    void fill();
    QComboBox* add_unit(int row);
    void changed(int row, int column);
    void answer(const std::optional<Problem>& wrong);

    Session* session_;
    QTableWidget* table_;
    QLabel* says_;
    ReadingsLine* readings_;
    bool filling_ = false;
};

} // namespace lp
