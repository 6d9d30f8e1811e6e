// Variants of the active part side by side: the same steps with other numbers, compared by volume, size, time and mass.
#pragma once
#include "app/session.h"
#include <QDialog>

class QLabel;
class QLineEdit;
class QTableWidget;

namespace lp {

class VariantsTable : public QDialog {
    Q_OBJECT
  public:
    VariantsTable(Session* session, QWidget* parent);
    QTableWidget* table() const { return table_; }
    QLineEdit* name() const { return name_; }
    void keep(); ///< the numbers as they are now, under the typed name
    void use();  ///< those of the current row
    void drop();

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void fill();
    void compare();
    void show_figures(PartId part, const std::vector<Results::VariantFigures>& figures);
    std::string chosen() const; ///< name of the current row; empty for none

    Session* session_;
    QTableWidget* table_;
    QLineEdit* name_;
    QLabel* says_;
    PartId part_;
};

} // namespace lp
