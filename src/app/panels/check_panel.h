// Left column of the stretch Check: findings of the active part, soundness of every part, mending.
#pragma once
#include "app/panels/fit_panel.h"

class QPushButton;
class QRadioButton;

namespace lp {

class CheckPanel : public Column {
    Q_OBJECT
  public:
    explicit CheckPanel(Session* session, QWidget* parent = nullptr);
    QPushButton* mend_button() const { return mend_; }
    const std::vector<MarkRow*>& finding_rows() const { return findings_; }
    /// Of the finding that is looked at.
    const std::vector<QPushButton*>& cure_buttons() const { return cures_; }

    /// To the places before and after the one looked at; null where there is one place only.
    QPushButton* place_before() const { return before_; }
    QPushButton* place_after() const { return after_; }
    QRadioButton* walls_choice() const { return walls_; }
    QRadioButton* hanging_choice() const { return hanging_; }
    QRadioButton* deviation_choice() const { return deviation_; } ///< null where there is no original

  private:
    void rebuild() override;
    void add_coloured(bool printed);
    void tell_walls();
    void tell_deviation(const Original& original);
    void add_places(const Finding& finding);
    void add_cures();
    void add_mending(PartId part, const QString& name);
    void add_reports(const Part& part);
    Session* session_;
    std::vector<MarkRow*> findings_;
    std::vector<QPushButton*> cures_;
    QPushButton *mend_ = nullptr, *before_ = nullptr, *after_ = nullptr;
    QRadioButton *hanging_ = nullptr, *walls_ = nullptr, *deviation_ = nullptr;
};

} // namespace lp
