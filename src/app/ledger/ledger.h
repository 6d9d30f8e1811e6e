// One line of state at the bottom; opened, a table of contacts, findings and what was written, whose rows jump to the
// place.
#pragma once
#include "app/session.h"
#include "app/theme/marks.h"
#include <QLabel>
#include <QTimer>
#include <QWidget>

class QPushButton;
class QTableWidget;

namespace lp {

class Ledger : public QWidget {
    Q_OBJECT
  public:
    explicit Ledger(Session* session, QWidget* parent = nullptr);
    void set_open(bool open);
    bool is_open() const { return open_; }
    QTableWidget* table() const { return table_; }
    QString line() const; ///< the state line as words
    QString message() const { return message_; }
    bool message_is_wrong() const { return wrong_; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    struct Row {
        theme::Mark mark = theme::Outcome::Sound;
        QString what, wanted, found, says;
        std::function<void()> jump, drop; ///< to the place; takes it away
    };
    void fill();
    std::vector<Row> rows() const;
    Row contact_row(const ContactResult& contact) const;
    Row measure_row(const MeasureResult& measure) const;
    Row finding_row(const PartFinding& finding) const;
    void add_reports(const Evaluation& evaluation, std::vector<Row>& rows) const;
    int count(FitState state) const;
    QRectF line_rect() const;

    Session* session_;
    bool open_ = false;
    QTableWidget* table_;
    QPushButton* toggle_;
    QString message_;
    bool wrong_ = false;
    QTimer message_timer_;
    std::vector<Row> rows_;
};

} // namespace lp
