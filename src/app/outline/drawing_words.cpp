#include "app/outline/drawing_words.h"

namespace lp {
namespace {

const NamedTool tools[] = {
    {DrawTool::Line, "Line", "click from point to point; type a length on the way"},
    {DrawTool::Rectangle, "Rectangle", "two corners; type width, height"},
    {DrawTool::Circle, "Circle", "centre and rim; type the diameter"},
    {DrawTool::Arc, "Arc", "its two ends, then a place on it"},
    {DrawTool::Slot, "Slot", "the centres of its ends"},
    {DrawTool::Text, "Text", "where it begins"},
    {DrawTool::TakeEdge, "Take an edge", "an edge of the part that the outline follows"},
    {DrawTool::Silhouette, "Silhouette", "what the part covers, seen square on; it follows the part"},
    {DrawTool::CentredRectangle, "Centred rectangle", "centre and corner"},
    {DrawTool::RoundedRectangle, "Rounded rectangle", "two corners"},
    {DrawTool::CentreArc, "Centre arc", "centre, beginning, end; counter-clockwise"},
    {DrawTool::TangentArc, "Tangent arc", "goes on from a line without a corner"},
    {DrawTool::Ellipse, "Ellipse", "centre, end of the long axis, width"},
    {DrawTool::Polygon, "Polygon", "centre and a corner"},
    {DrawTool::PolygonOverFlats, "Polygon over flats", "centre and the middle of a side"},
    {DrawTool::Spline, "Spline", "points it runs through; Enter ends it"},
    {DrawTool::Point, "Point", "a place to measure from"},
    {DrawTool::Formula, "Formula", "where its origin lies"},
    {DrawTool::Trim, "Trim", "the stretch to take away"},
    {DrawTool::Extend, "Extend", "the end to lengthen"},
    {DrawTool::Split, "Split", "the place to part it"},
    {DrawTool::TrueLength, "True length", "two places of a picture; then what you measured between them"}};

const NamedConstraint constraints[] = {{ConstraintKind::Length, "Length"},
                                       {ConstraintKind::Diameter, "Diameter"},
                                       {ConstraintKind::Radius, "Radius"},
                                       {ConstraintKind::Distance, "Distance"},
                                       {ConstraintKind::DistanceX, "Distance across"},
                                       {ConstraintKind::DistanceY, "Distance up"},
                                       {ConstraintKind::Angle, "Angle"},
                                       {ConstraintKind::Coincident, "Coincident"},
                                       {ConstraintKind::On, "On"},
                                       {ConstraintKind::Horizontal, "Horizontal"},
                                       {ConstraintKind::Vertical, "Vertical"},
                                       {ConstraintKind::Parallel, "Parallel"},
                                       {ConstraintKind::Perpendicular, "Perpendicular"},
                                       {ConstraintKind::Tangent, "Tangent"},
                                       {ConstraintKind::Equal, "Equal"},
                                       {ConstraintKind::Midpoint, "Midpoint"},
                                       {ConstraintKind::Symmetric, "Symmetric"},
                                       {ConstraintKind::Concentric, "Concentric"},
                                       {ConstraintKind::ArcLength, "Arc length"},
                                       {ConstraintKind::Fixed, "Fixed"}};

} // namespace

std::span<const NamedTool> named_tools() {
    return tools;
}

std::span<const NamedConstraint> named_constraints() {
    return constraints;
}

const NamedTool* tool_named(DrawTool tool) {
    for (const NamedTool& t : tools)
        if (t.tool == tool) return &t;
    return nullptr;
}

bool line_begins(const QString& line, const char* words) {
    return line.compare(words, Qt::CaseInsensitive) == 0 || line.startsWith(QString(words) + " ", Qt::CaseInsensitive);
}

} // namespace lp
