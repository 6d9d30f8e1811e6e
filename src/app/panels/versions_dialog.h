// Versions of the design kept by a name: what has become other since, in numbers, sizes and a picture; a number taken
// back; a version opened beside today's.
#pragma once
#include "app/session.h"
#include "project/versions.h"
#include <QDialog>

class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QTableWidget;

namespace lp {

class VersionsDialog : public QDialog {
    Q_OBJECT
  public:
    VersionsDialog(Session* session, QWidget* parent);
    QLineEdit* name() const { return name_; }
    QListWidget* versions() const { return versions_; }
    QTableWidget* numbers() const { return numbers_; }
    QTableWidget* parts() const { return parts_; }
    QLabel* picture() const { return picture_; }
    QString says() const;
    QPushButton* take_button() const { return take_; }
    void keep();      ///< the project as it is now, under the typed name
    void take_over(); ///< the number of the current row
    void drop();
    void open_beside();
    bool is_compared() const { return compared_; }

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void make_list(QBoxLayout* into);
    void make_comparison(QBoxLayout* into);
    void fill();
    void compare();
    void show_parts(const std::vector<PartDifference>& differences);
    void show_picture(int row);
    std::string chosen() const; ///< name of the current version; empty for none

    Session* session_;
    QListWidget* versions_ = nullptr;
    QTableWidget *numbers_ = nullptr, *parts_ = nullptr;
    QLabel *picture_ = nullptr, *says_ = nullptr, *part_says_ = nullptr;
    QLineEdit* name_ = nullptr;
    QPushButton* take_ = nullptr;
    std::vector<NumberDifference> differences_;
    std::vector<PartDifference> part_differences_;
    std::shared_ptr<Evaluator> evaluator_ = std::make_shared<Evaluator>(); ///< keeps what versions have in common
    uint64_t asked_ = 0, pictures_ = 0;                                    ///< how often; older answers are let go
    bool compared_ = false;
};

} // namespace lp
