// Movements in the stretch Fit: a body led along a turn, slide, screw or legs; the curve of its smallest gap, the first
// contact, the play; the view follows the curve's handle.
#pragma once
#include "app/widgets/column.h"

class QPushButton;

namespace lp {

/// The smallest gap against the position. The handle is dragged, or moved by the arrow keys (Home and End: the ends);
/// it stops where the bodies touch unless Shift is held.
class MovementCurve : public QWidget {
    Q_OBJECT
  public:
    /// `position`: where the handle is at first.
    MovementCurve(const MovementOutcome& outcome, double position, QWidget* parent);
    double position() const { return position_; }
    void set_position(double position, bool through_contact);
    QSize sizeHint() const override { return {300, 116}; }

  signals:
    void moved(double position);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

  private:
    QRectF plot() const;
    double x_of(double position) const;
    double position_at(double x) const;
    MovementOutcome outcome_;
    double position_, top_mm_;
};

class MovementSection : public QWidget {
    Q_OBJECT
  public:
    MovementSection(Session* session, QWidget* parent);
    /// Field of the n-th movement: "from", "to", "step", "pitch", "legs", "moving", "still", "stands". For tests.
    ValueField* field(size_t movement, const std::string& name) const;
    MovementCurve* curve(size_t movement) const;
    QPushButton* check_button(size_t movement) const;
    QPushButton* printed_button(size_t movement) const;
    QPushButton* leave_button(size_t movement) const; ///< beside the curve

  private:
    struct Row {
        MovementId id;
        std::map<std::string, ValueField*> fields;
        MovementCurve* curve = nullptr;
        QPushButton *check = nullptr, *printed = nullptr, *leave = nullptr;
    };
    void add(const KeptMovement& movement);
    void add_kind(const KeptMovement& movement, Row& row, QVBoxLayout* column);
    void add_buttons(const KeptMovement& movement, Row& row, QVBoxLayout* column);
    void add_axis(const KeptMovement& movement, Row& row, QVBoxLayout* column);
    void add_outcome(const KeptMovement& movement, Row& row, QVBoxLayout* column);
    void add_leave(const KeptMovement& movement, const MovementOutcome& outcome, Row& row, QVBoxLayout* column);
    Session* session_;
    std::vector<Row> rows_;
};

/// What came of a movement, in sentences.
QStringList movement_words(const MovementOutcome& outcome);
/// Leads what goes in along the way that the contact's step declares, and keeps the movement. Says why it cannot.
void lead_along_way(Session& session, const ContactResult& contact);
/// A new movement of a picked body about or along what was picked.
std::optional<KeptMovement> movement_from_pick(const Session& session, const Pick& pick, const MovementKind& kind);

} // namespace lp
