// Left column of the stretch Bed: pose, marks, supports.
#pragma once
#include "app/panels/fit_panel.h"

class QPushButton;
class QRadioButton;

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

} // namespace lp
