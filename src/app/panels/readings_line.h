// Readings of a number, one after the other without the mouse: a value and Enter, as a caliper types them; Enter alone
// goes to the next number; a name goes to that number, and makes it where there is none.
#pragma once
#include "app/session.h"
#include <QWidget>

class QButtonGroup;
class QLabel;
class QLineEdit;
class QPushButton;

namespace lp {

class ReadingsLine : public QWidget {
    Q_OBJECT
  public:
    ReadingsLine(Session* session, QWidget* parent);
    /// Whose readings are taken; the first number there is when it is gone.
    void set_number(const std::string& name);
    const std::string& number() const { return name_; }
    void refresh();
    QLineEdit* line() const { return line_; }
    QString says() const;
    QPushButton* follow_button(Follows follows) const;

  signals:
    void number_changed(const std::string& name);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void take();
    void take_reading(const QString& typed);
    void go_on(int by);
    void drop_last();
    void set_follows(Follows follows);
    std::optional<Problem> set(const Readings& readings);
    void tell(const std::optional<Problem>& wrong);
    const Parameter* parameter() const;

    Session* session_;
    std::string name_;
    QLabel *title_, *says_, *wrong_;
    QLineEdit* line_;
    QButtonGroup* follows_;
};

/// "3 readings, mean 6.02 mm, spread 0.05 mm", and what is to be said about a wide spread.
QString readings_words(const Parameter& parameter);

} // namespace lp
