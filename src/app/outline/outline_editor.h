// Drawing an outline by hand in the view: tools, snapping, dimensions at the drawing, choosing regions.
#pragma once
#include "app/offers/offers_bar.h"
#include "app/session.h"
#include "app/view/camera.h"
#include "app/view/view_overlay.h"
#include "outline/alter.h"
#include "outline/shapes.h"
#include <QImage>
#include <QPointer>
#include <QRectF>

class QLineEdit;

namespace lp {

class ViewWidget;

enum class DrawTool {
    Select,
    Line,
    TangentArc,
    Arc,       ///< two ends and a point on it
    CentreArc, ///< centre, beginning, end
    Rectangle,
    CentredRectangle,
    RoundedRectangle,
    Circle,
    Ellipse,
    Slot,
    Polygon, ///< over corners
    PolygonOverFlats,
    Spline,
    Point,
    Text,
    Formula,
    Trim,
    Extend,
    Split,
    TakeEdge,   ///< an edge of the part, followed
    Silhouette, ///< of the part
    TrueLength  ///< two places of a picture or a file, and what lies between them in truth
};

/// What the pointer would take.
struct Snap {
    Vec2 at = Vec2::Zero();
    std::optional<DrawingId> point;
    std::optional<DrawingId> element;    ///< the place lies on it
    bool level = false, upright = false; ///< against the last point
    QString words;
};

class OutlineEditor : public QObject, public ViewOverlay {
    Q_OBJECT
  public:
    OutlineEditor(Session* session, ViewWidget* view);

    /// Opens a drawing; the view turns square on as soon as its plane is known.
    void open(PartId part, StepId step);
    /// Opens the drawing to choose regions for a step that grows from it; the offers then set them there.
    void choose_for(PartId part, StepId outline, StepId step);
    void close();
    bool active() const { return bool(step_); }
    StepId step() const { return step_; }
    PartId part() const { return part_; }
    const Drawing& drawing() const { return drawing_; }
    const OutlineShape* shape() const { return shape_.get(); }
    const Transform& plane() const { return plane_; }
    bool cut_away() const { return cut_away_; }

    void set_tool(DrawTool tool);
    DrawTool tool() const { return tool_; }
    const std::set<DrawingId>& selection() const { return selected_; }
    const std::vector<size_t>& chosen_regions() const { return regions_; }
    void select(DrawingId id, bool add);
    /// What can be done now, for the offers row.
    std::vector<Offer> offers();
    QString words() const; ///< of the offers row: what is chosen, what the tool waits for
    /// A typed line: a tool, a tool with places ("rectangle 0 0 58 36"), a constraint with a value ("length wall * 2"),
    /// "offset -wall". Nothing when it is no word of drawing; otherwise an empty text, or what is wrong.
    std::optional<QString> do_line(const QString& line);
    /// Where a place of the drawing is in the view. For painting and tests.
    QPointF to_view(const Vec2& p) const;
    Vec2 to_drawing(const QPointF& at) const;
    QLineEdit* box() const { return box_; }
    void choose_file();                 ///< asks for one to bring in
    void bring_in(const QString& path); ///< an SVG or DXF file, or a picture, as an element
    /// Rectangle of a dimension's number in the view.
    QRectF label_rect(const Constraint& dimension) const;
    void edit_dimension(DrawingId constraint);
    /// The marks of constraints that carry no number, where they stand in the view.
    struct Mark {
        DrawingId constraint = 0;
        QRectF rect;
        QString text;
    };
    std::vector<Mark> constraint_marks() const;
    /// Copies what is chosen into another outline of the project, with the constraints among it.
    void copy_to(PartId part, StepId outline);
    /// The steps a chosen region, or everything filled, can become.
    void make_solid(const StepKind& kind, std::map<std::string, std::string> fields);
    void add_growing_offers(std::vector<Offer>& offers, size_t most);

    void paint(QPainter& painter) override;
    bool press(QMouseEvent* event) override;
    bool move(QMouseEvent* event) override;
    bool release(QMouseEvent* event) override;
    bool double_click(QMouseEvent* event) override;
    bool key(QKeyEvent* event) override;

  signals:
    void changed();      ///< offers and picture
    void mode_changed(); ///< opened or closed

  private:
    // outline_editor.cpp
    void take_results();
    void turn_square_on();
    bool commit(Drawing next, const QString& sentence);
    void say_wrong(const Problem& why);
    Snap snap(const QPointF& at) const;
    std::optional<DrawingId> element_at(const QPointF& at) const;
    std::optional<DrawingId> point_at(const QPointF& at) const;
    std::optional<DrawingId> label_at(const QPointF& at) const;
    std::optional<DrawingId> mark_at(const QPointF& at) const;
    void select_at(const QPointF& at, bool add);
    void remove_selected();
    ParameterValues values() const;
    double near_mm() const; ///< 8 pixels
    // outline_tools.cpp
    void click(const Snap& at);
    void place_three();
    void ask_for_words(const Snap& at);
    void finish_tool(); ///< ends a chain: spline, lines
    bool place_line(const Snap& to, const std::string& length = {}, const std::string& angle = {});
    bool place_two(const Snap& to, const std::string& first = {}, const std::string& second = {});
    void typed(const QString& text);
    void take_edge(const QPointF& at);
    void take_silhouette();
    // outline_picture.cpp
    bool is_picture(const Element& e) const;
    void paint_pictures(QPainter& p);
    bool choose_what_to_scale();
    void ask_true_length();
    // outline_tools.cpp
    void offer_copies(QWidget* at);
    /// With a kind the text is a quantity: shown and meant in the unit of the settings, `done` gets it as files have
    /// it.
    void open_box(const QPointF& at, const QString& text, const QString& hint, std::function<void(const QString&)> done,
                  std::optional<QuantityKind> kind = {});
    // outline_offers.cpp
    void add_tool_offers(std::vector<Offer>& offers);
    void add_constraint_offers(std::vector<Offer>& offers);
    void add_element_offers(std::vector<Offer>& offers);
    void add_text_offers(std::vector<Offer>& offers, const Element& e);
    void change_text(DrawingId id, const char* name);
    void add_corner_offers(std::vector<Offer>& offers, DrawingId id);
    void add_region_offers(std::vector<Offer>& offers);
    void constrain_selected(ConstraintKind kind, const std::string& value = {});
    void offset_selected(const std::string& distance);
    void edit_text(DrawingId element, const std::string& name);
    std::vector<DrawingId> ordered_selection(ConstraintKind kind) const;
    // outline_line.cpp: they give back what is wrong, or nothing
    QString do_repeat_line(const QString& line);
    QString do_places(const QString& places, const QString& tool);
    QString do_copy_line(const QString& name);
    Snap snap_typed(const Vec2& at) const;
    // outline_paint.cpp
    void paint_curves(QPainter& p, const std::vector<SourcedCurve>& curves, const Transform& plane,
                      const QColor& colour, double width, bool dashed) const;
    void paint_regions(QPainter& p) const;
    void paint_elements(QPainter& p) const;
    void paint_constraints(QPainter& p) const;
    void paint_crossings(QPainter& p) const;
    void paint_tool(QPainter& p) const;

    Session* session_;
    ViewWidget* view_;
    PartId part_;
    StepId step_, for_step_;
    Drawing drawing_;
    std::shared_ptr<const OutlineShape> shape_;
    Transform plane_ = Transform::Identity();
    std::optional<Camera> looked_from_; ///< before the drawing was opened
    bool plane_known_ = false, square_on_ = false, cut_away_ = false;
    DrawTool tool_ = DrawTool::Select;
    std::vector<Snap> clicks_; ///< of the tool at work
    DrawingId chain_start_ = 0, last_line_ = 0;
    Snap hover_;
    std::set<DrawingId> selected_;
    std::vector<DrawingId> select_order_;
    std::vector<size_t> regions_;
    std::unique_ptr<Drag> drag_;
    bool dragging_ = false;
    QPointF press_;
    DrawingId drag_what_ = 0;
    int sides_ = 6;
    DrawingId scaled_ = 0; ///< by the tool of true length
    std::map<DrawingId, std::pair<std::shared_ptr<const std::string>, QImage>>
        pictures_; ///< with what they were made of
    QPointer<QLineEdit> box_;
};

} // namespace lp
