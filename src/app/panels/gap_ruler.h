// The gap ruler: named fits as notches on a rule from below nothing to a millimetre, and each contact as its ring on a
// line below, on the same scale.
#pragma once
#include "app/panels/mark_row.h"
#include "app/session.h"
#include "app/widgets/value_field.h"

namespace lp {

/// Millimetres a face to pixels across a widget.
struct GapScale {
    static constexpr double low_mm = -0.2, high_mm = 1.0;
    static constexpr int margin_px = 22;
    static double x(double mm, int width);
    static double mm(double x, int width);
};

/// Gives a contact a fit by name, where the fit is a field of a step or a wish for two bodies.
std::optional<Problem> give_fit(Session& session, const ContactResult& contact, const std::string& fit);

/// The rule with its notches. A notch is dragged, stepped with Up and Down, or its number typed; Left and Right choose.
class GapRuler : public QWidget {
    Q_OBJECT
  public:
    GapRuler(Session* session, QWidget* parent);
    QSize sizeHint() const override { return {300, height_}; }
    /// Where a notch can be taken, in the widget; empty for a name that is not there.
    QRectF notch_rect(const std::string& fit) const;
    const std::string& chosen() const { return chosen_; }
    void choose(const std::string& fit);
    bool is_held() const { return dragged_mm_.has_value(); } ///< it must not go now

  signals:
    void let_go();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override;
    void focusOutEvent(QFocusEvent*) override { update(); }
    void resizeEvent(QResizeEvent*) override { lay_names(); }

  private:
    struct Notch {
        std::string fit;
        double gap_mm = 0;
        QRectF name; ///< where its name stands
    };
    void lay_names();
    const Notch* at(const QPointF& place) const;
    Notch* notch(const std::string& fit);
    std::optional<Problem> set_gap(const std::string& fit, double gap_mm);
    void set_gap_or_say(const std::string& fit, double gap_mm);
    void type_number(const std::string& fit, const QString& start);

    Session* session_;
    std::vector<Notch> notches_;
    std::string chosen_;
    std::optional<double> dragged_mm_; ///< of the chosen notch, while it is held
    double press_x_ = 0;
    int height_ = 96, rule_top_ = 48;
    QPointer<ValueField> field_;
};

/// A contact: what it is called, its numbers, and on the rule's scale its ring with a whisker from the smallest to the
/// largest gap found and a tick where it is wanted. The ring is dragged to another fit's notch.
class ContactRow : public MarkRow {
    Q_OBJECT
  public:
    ContactRow(Session* session, const ContactResult& contact, const QString& below, QWidget* parent);
    QRectF ring_rect() const;
    /// A second, smaller ring where a practice print leaves the gap.
    void set_printed(double gap_mm, FitState state);
    QRectF printed_rect() const; ///< empty where it was not printed
    bool is_held() const { return pressed_x_.has_value(); }

  signals:
    void let_go();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;

  private:
    const NamedFit* nearest(double x) const;
    Session* session_;
    ContactResult contact_;
    std::optional<double> pressed_x_, dragged_x_;
    std::optional<std::pair<double, FitState>> printed_;
};

} // namespace lp
