// What may be chosen about the program itself. Each choice holds at once; only the size of text waits for the next
// start.
#pragma once
#include "app/settings.h"
#include <QDialog>
#include <functional>
#include <tuple>
#include <vector>

class QAbstractButton;
class QPushButton;
class QLabel;
class QVBoxLayout;

namespace lp {

class SettingsDialog : public QDialog {
    Q_OBJECT
  public:
    explicit SettingsDialog(QWidget* parent);
    /// The button of a choice by its words.
    QAbstractButton* choice(const QString& words) const;

  signals:
    void restart_wanted(); ///< begin again at the size that was chosen

  private:
    template <class Value>
    void add(QVBoxLayout* rows, const QString& title, Value Settings::*what,
             const std::vector<std::tuple<QString, QString, Value>>& choices,
             const std::function<QPushButton*(size_t)>& drawn = {});
    void take(const Settings& wanted);

    QLabel* says_ = nullptr;
    QAbstractButton* again_ = nullptr;
    int size_at_start_;
};

} // namespace lp
