// The view: a picture of the scene with marks painted over it; orbit, pan, zoom, hover and click.
#pragma once
#include "app/theme/marks.h"
#include "app/view/picker.h"
#include "app/view/picture_maker.h"
#include "app/view/view_overlay.h"
#include "project/contact_ledger.h"
#include <QElapsedTimer>
#include <QPointer>
#include <QTimer>
#include <QWidget>

namespace lp {

/// A label standing at a place of the scene.
struct ViewMark {
    Vec3 at = Vec3::Zero(); ///< world
    QString title, text;
    std::optional<theme::Mark> mark;        ///< of a contact or a finding
    std::optional<Vec3> to = {};            ///< the other end of what was measured
    std::optional<ContactRef> contact = {}; ///< that a click on its ring chooses
    QString tip = {};                       ///< of its ring
    /// Facets, edges (the last corner twice) and corners that are drawn over the parts, and which of them is looked at.
    std::vector<std::array<Vec3, 3>> outlines = {};
    size_t outlined = 0;
};

inline constexpr double ring_px = 13; ///< radius of what stands at a contact

class ViewWidget : public QWidget {
    Q_OBJECT
  public:
    explicit ViewWidget(QWidget* parent = nullptr);

    void set_scene(Scene scene);
    const Scene& scene() const { return scene_; }
    Camera& camera() { return camera_; }
    void set_marks(std::vector<ViewMark> marks);
    const std::vector<ViewMark>& marks() const { return marks_; }
    /// Drawn last; asked first about mouse and keys, the one that was added first before the others.
    void add_overlay(ViewOverlay* overlay) { overlays_.push_back(overlay); }
    /// Shows bodies of a part elsewhere until the next scene; from where they are, not from where they were shown.
    void shift_bodies(PartId part, std::optional<size_t> body, const Transform& by, std::optional<int> copy = {});
    const Camera& camera() const { return camera_; }
    /// One line at the lower left: what a click would take.
    void set_hint(const QString& hint);
    void set_busy(const QString& doing, double share); ///< empty: not busy
    void look_from(const Camera& camera);
    /// Whether all of a box is within the picture.
    bool sees(const Box3& box) const;
    /// As fit_box(), in a short glide, so that the eye can follow.
    void glide_to(const Box3& box);
    bool is_gliding() const;
    void fit_all();
    void fit_selection();
    void fit_box(const Box3& box); ///< everything when it is empty
    /// Looks at a place without turning, near enough to see a millimetre.
    void go_to(const Vec3& world);
    void refresh(); ///< the picture is stale
    /// Of the scene as it is; waits for it.
    QImage picture();
    /// Places a click at a widget position would take, best first. For tests and keyboard selection.
    std::vector<Pick> candidates_at(const QPointF& at);
    QPointF project(const Vec3& world) const { return camera_.project(world, size()); }
    double last_render_ms() const { return last_render_ms_; }

  signals:
    void picked(const lp::Pick& pick, bool add); ///< None: empty ground was clicked
    void hovered(const lp::Pick& pick);
    void contact_chosen(const lp::ContactRef& contact); ///< by its ring
    /// A menu of what can be done with what lies there; None: empty ground.
    void menu_wanted(const lp::Pick& pick, const QPoint& global);
    void boxed(const std::vector<lp::Pick>& picks); ///< Ctrl-drag: what lies wholly in the box
    void number_pressed(int number);
    void nudged(const lp::Vec3& by_mm); ///< Alt and an arrow or page key
    void line_wanted();
    void stop_wanted();
    void escape_pressed();
    void drawn();

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    bool event(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;

  private:
    void order_picture();
    bool take_picture();
    void wait_for_picture();
    void refresh_moving();
    void paint_over(QPainter& painter);
    void paint_marks(QPainter& painter);
    const ViewMark* ring_at(const QPointF& at) const;             ///< of a contact, to click on
    void paint_outlines(QPainter& painter, const ViewMark& mark); ///< what a finding counts
    void paint_bed_words(QPainter& painter);
    QRectF stop_button() const;
    void take_click(const QPointF& at, bool add);
    void take_menu(const QPointF& at, const QPoint& global);
    /// Edges of the active part that lie wholly in a box of the picture, behind others too; whole parts where there are
    /// none.
    std::vector<Pick> in_box(const QRectF& box) const;

    Scene scene_;
    std::vector<Box3> boxes_; ///< of its bodies, in their own frames
    Camera camera_;
    PictureMaker maker_;
    Picker picker_;
    QTimer pick_soon_; ///< the rays of a large scene are made before the hand comes, once the scene rests
    QImage image_;
    Camera drawn_from_;   ///< the image's
    bool stale_ = true;   ///< another picture is to be ordered
    bool moving_ = false; ///< the camera is under way
    QTimer order_soon_;   ///< once for all changes of a moment
    std::vector<ViewMark> marks_;
    QString hint_;
    QString busy_;
    double busy_share_ = 0;
    QPointF press_, last_;
    Qt::MouseButton button_ = Qt::NoButton;
    bool dragged_ = false;
    std::optional<QRectF> box_; ///< being drawn
    QPointF cycle_at_{-100, -100};
    size_t cycle_ = 0;
    double last_render_ms_ = 0;
    bool camera_set_ = false;
    QPointer<class QVariantAnimation> glide_;
    QTimer resting_; ///< until a view that was moved is drawn in full
    std::vector<ViewOverlay*> overlays_;
    ViewOverlay* has_mouse_ = nullptr; ///< the overlay that took the press
    std::vector<Transform> unshifted_; ///< places of the scene's bodies while some are shifted
};

} // namespace lp
