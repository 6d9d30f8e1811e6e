// Left columns of the stretches Bed (pose, supports) and Export (files, what was read back, the estimate).
#pragma once
#include "app/panels/fit_panel.h"

class QPushButton;
class QRadioButton;
class QLineEdit;

namespace lp {

struct FoundMarks;

class BedPanel : public Column {
    Q_OBJECT
  public:
    explicit BedPanel(Session* session, QWidget* parent = nullptr);
    QPushButton* supports_button() const { return supports_; }
    QRadioButton* kind_button(SupportKind kind) const { return kinds_[size_t(kind)]; }
    ValueField* turn_field(int axis) const { return turns_[size_t(axis)]; }

  private:
    void rebuild() override;
    void add_pose(const Part& part);
    void add_marks(const Part& part);
    void add_brush(const Part& part, const FoundMarks& found);
    void add_by_hand(const Part& part, const Supports& supports);
    void add_supports(const Part& part);
    void add_support_kinds(const Part& part);
    Session* session_;
    QPushButton* supports_ = nullptr;
    std::array<QRadioButton*, 2> kinds_{};
    std::array<ValueField*, 3> turns_{};
};

class ExportPanel : public Column {
    Q_OBJECT
  public:
    explicit ExportPanel(Session* session, QWidget* parent = nullptr);
    void export_now();
    void set_folder(const QString& folder);
    QPushButton* export_button() const { return button_; }

  private:
    void rebuild() override;
    void add_formats();
    void add_folder();
    void add_read_back();
    void add_estimate();
    void add_hardware();
    Session* session_;
    QPushButton* button_ = nullptr;
    QString folder_;
    std::set<std::string> formats_; ///< ids of the chosen ones
    double deflection_mm_ = 0.01;
    std::string deflection_formula_; ///< as typed, where that was more than a number
};

} // namespace lp
