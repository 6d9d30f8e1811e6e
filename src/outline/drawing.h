// The document of an outline: points, elements on them, constraints and dimensions, kept as typed. A value.
#pragma once
#include "base/expression.h"
#include "outline/curve.h"
#include "shape/face_reference.h"
#include <map>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <set>

namespace lp {

/// Names a point, element or constraint inside one drawing. 0 is the origin, 1 the x axis, 2 the y axis: always there
/// and fixed.
using DrawingId = uint32_t;
inline constexpr DrawingId origin_id = 0, x_axis_id = 1, y_axis_id = 2, first_free_id = 10;

enum class ElementKind {
    Line,    ///< points: from, to
    Arc,     ///< points: centre, from, to; counter-clockwise
    Circle,  ///< points: centre; radius
    Ellipse, ///< points: centre, end of the longer half axis; radius: the other half axis
    Spline,  ///< points: two or more it runs through; closed or not
    Point,   ///< points: one
    Text,    ///< points: where it starts; texts: text, font, size, spacing, angle, thicken (of every stroke, a side),
             ///< side; `along` a circle
    Import,  ///< points: where its origin lies; texts: file, scale, angle, fill; of a picture ink, dark
    Formula, ///< points: its origin; texts: axis ("y of x" or "x of y"), expression, from, to
    Offset,  ///< of: elements; texts: distance, corners (sharp, round), ends (open, closed)
    Silhouette, ///< no points; texts: bodies; what they cover, seen square on
};
const char* element_kind_name(ElementKind kind);
/// Worked out from something else: known only when the whole outline is.
inline bool is_derived(ElementKind kind) {
    return kind == ElementKind::Import || kind == ElementKind::Offset || kind == ElementKind::Silhouette;
}

struct Element {
    DrawingId id = 0;
    ElementKind kind = ElementKind::Line;
    std::vector<DrawingId> points;
    double radius = 0; ///< mm; a first guess where constraints decide
    bool construction = false;
    bool closed = false;                      ///< Spline
    std::vector<DrawingId> of;                ///< Offset: elements; Text: the circle it runs along
    std::map<std::string, std::string> texts; ///< as typed; quantities take expressions
    GeometryItem follows;                     ///< empty, or the edge of the part it is a picture of: then fixed
    bool operator==(const Element&) const = default;
};

enum class ConstraintKind {
    Coincident,    ///< two points
    On,            ///< point, line or curve
    Horizontal,    ///< line, or two points
    Vertical,      ///< line, or two points
    Parallel,      ///< two lines
    Perpendicular, ///< two lines
    Tangent,       ///< line and round curve, or two round curves
    Equal,         ///< two lengths or two radii
    Midpoint,      ///< point, line
    Symmetric,     ///< two points about a line
    Concentric,    ///< two round curves
    Fixed,         ///< a point or an element stays where it is
    // Dimensions: these carry a value.
    Distance,  ///< two points, point and line, or two lines
    DistanceX, ///< two points, along x
    DistanceY, ///< two points, along y
    Length,    ///< line
    Angle,     ///< two lines, or a line against the x axis
    Radius,    ///< round curve
    Diameter,  ///< round curve
    ArcLength, ///< arc
};
const char* constraint_kind_name(ConstraintKind kind);
bool is_dimension(ConstraintKind kind);
QuantityKind quantity_of(ConstraintKind kind);

struct Constraint {
    DrawingId id = 0;
    ConstraintKind kind = ConstraintKind::Coincident;
    std::vector<DrawingId> of; ///< points and elements, in the order of the kind
    std::string value;         ///< of a dimension, as typed
    Vec2 label = Vec2::Zero(); ///< where its number stands, relative to what it measures
    bool operator==(const Constraint&) const = default;
};

struct Drawing {
    std::map<DrawingId, Vec2> points; ///< last solved positions: the guess the next solve starts from
    std::vector<Element> elements;
    std::vector<Constraint> constraints;
    bool operator==(const Drawing&) const = default;

    const Element* element(DrawingId id) const;
    Element* element(DrawingId id);
    const Constraint* constraint(DrawingId id) const;
    DrawingId next_id() const; ///< larger than every id in use
    bool is_point(DrawingId id) const { return id == origin_id || points.count(id) > 0; }

    DrawingId add_point(const Vec2& at);
    DrawingId add(ElementKind kind, std::vector<DrawingId> points, double radius = 0);
    DrawingId add(ConstraintKind kind, std::vector<DrawingId> of, std::string value = {});
    /// Takes elements, points or constraints away, with what cannot be without them: constraints on them, offsets of
    /// them, points nothing uses.
    void remove(const std::set<DrawingId>& gone);
};

/// Names of the texts of an element that are quantities, with their kinds: "size" of a text is a length.
std::vector<std::pair<std::string, QuantityKind>> element_quantities(ElementKind kind);
/// Every text of a drawing that is an expression, with words for where it stands: "distance of line 12".
std::vector<std::pair<std::string, std::string*>> drawing_expressions(Drawing& drawing);
std::vector<std::pair<std::string, const std::string*>> drawing_expressions(const Drawing& drawing);
/// Standard text of those and the other texts, for elements that do not give them.
std::string element_text(const Element& element, const std::string& name);

/// "line 12", "the distance of 58 mm": words for a message.
std::string element_words(const Drawing& drawing, DrawingId id);
std::string constraint_words(const Constraint& constraint);

/// Refuses unknown kinds, wrong numbers of references, references to nothing, ids used twice, more than 20,000
/// elements, numbers that are not finite; says which.
Expected<Drawing> drawing_from_json(const nlohmann::json& json);
Expected<Drawing> drawing_from_text(const std::string& text);
nlohmann::json drawing_json(const Drawing& drawing);
std::string drawing_text(const Drawing& drawing);

} // namespace lp
