#include "formats/write_flat.h"
#include "base/files.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include <cmath>
#include <numbers>

namespace lp {
namespace {

using std::numbers::pi;

std::string number(double value) {
    return format_number(value, 6);
}

/// Lines and arcs alone.
std::vector<Curve> simple(const std::vector<Curve>& loop) {
    std::vector<Curve> result;
    for (const Curve& curve : loop) {
        if (curve.kind == Curve::Kind::Line || curve.kind == Curve::Kind::Arc) {
            result.push_back(curve);
            continue;
        }
        const std::vector<Vec2> points = flatten({curve}, tolerance::export_deflection_mm);
        for (size_t i = 1; i < points.size(); ++i) result.push_back(Curve::line(points[i - 1], points[i]));
    }
    return result;
}

bool is_circle(const Curve& curve) {
    return curve.kind == Curve::Kind::Arc && std::fabs(std::fabs(curve.sweep) - 2 * pi) < 1e-9;
}

/// Pairs of a group code and its value, a line each (DXF reference; from memory).
class Groups {
  public:
    void put(int code, const std::string& value) { text_ += std::to_string(code) + "\n" + value + "\n"; }
    void put(int code, double value) { put(code, number(value)); }
    void at(int code, const Vec2& p) {
        put(code, p.x());
        put(code + 10, p.y());
    }
    void entity(const char* kind) {
        put(0, kind);
        put(8, "outline"); // its layer
    }
    std::string text() && { return std::move(text_); }

  private:
    std::string text_;
};

} // namespace

// By hand: the library that reads DXF writes to named files only, which are not whole or not at all.
std::string dxf_of(const std::vector<std::vector<Curve>>& loops) {
    Groups groups;
    groups.put(0, "SECTION");
    groups.put(2, "HEADER");
    groups.put(9, "$ACADVER");
    groups.put(1, "AC1009");
    groups.put(9, "$INSUNITS");
    groups.put(70, "4"); // millimetres
    groups.put(0, "ENDSEC");
    groups.put(0, "SECTION");
    groups.put(2, "ENTITIES");
    for (const auto& loop : loops)
        for (const Curve& curve : simple(loop)) {
            if (curve.kind == Curve::Kind::Line) {
                groups.entity("LINE");
                groups.at(10, curve.first());
                groups.at(11, curve.last());
                continue;
            }
            groups.entity(is_circle(curve) ? "CIRCLE" : "ARC");
            groups.at(10, curve.centre);
            groups.put(40, curve.radius);
            if (is_circle(curve)) continue;
            // Arcs run counter-clockwise there.
            const double from = curve.sweep > 0 ? curve.start : curve.start + curve.sweep;
            groups.put(50, degrees(from));
            groups.put(51, degrees(from + std::fabs(curve.sweep)));
        }
    groups.put(0, "ENDSEC");
    groups.put(0, "EOF");
    return std::move(groups).text();
}

std::string svg_of(const std::vector<std::vector<Curve>>& loops) {
    Box2 box;
    for (const auto& loop : loops)
        for (const Curve& curve : loop) box.extend(curve.tight_box());
    if (box.isEmpty()) return {};
    constexpr double border = 1; // so that the line round it is seen
    const Vec2 size = box.sizes() + Vec2(2 * border, 2 * border);
    auto at = [&](const Vec2& p) {
        return number(p.x() - box.min().x() + border) + " " + number(box.max().y() - p.y() + border);
    };
    std::string path;
    for (const auto& loop : loops) {
        if (loop.empty()) continue;
        path += "M " + at(loop.front().first()) + " ";
        for (const Curve& curve : simple(loop)) {
            if (curve.kind == Curve::Kind::Line) {
                path += "L " + at(curve.last()) + " ";
                continue;
            }
            // Of an arc the standard wants less than all of a circle: two halves.
            const int pieces = is_circle(curve) ? 2 : 1;
            for (int i = 1; i <= pieces; ++i)
                path += "A " + number(curve.radius) + " " + number(curve.radius) + " 0 " +
                        (std::fabs(curve.sweep) / pieces > pi + 1e-9 ? "1 " : "0 ") + (curve.sweep > 0 ? "0 " : "1 ") +
                        at(curve.at(double(i) / pieces)) + " ";
        }
        path += "Z ";
    }
    return "<?xml version=\"1.0\"?>\n<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.1\" width=\"" +
           number(size.x()) + "mm\" height=\"" + number(size.y()) + "mm\" viewBox=\"0 0 " + number(size.x()) + " " +
           number(size.y()) +
           "\">\n<path fill=\"#d9d2c5\" fill-rule=\"evenodd\" stroke=\"#000000\" stroke-width=\"0.2\" d=\"" + path +
           "\"/>\n</svg>\n";
}

std::optional<Problem> write_flat(const std::filesystem::path& path, const std::vector<std::vector<Curve>>& loops) {
    const std::string ending = ending_of(path);
    if (ending != "dxf" && ending != "svg")
        return Problem{ProblemCode::File, "Outlines are written as .dxf or .svg.", "Use one of them."};
    if (loops.empty()) return Problem{ProblemCode::Missing, "There is no outline to write.", "Move the plane."};
    return write_file_safely(path, ending == "dxf" ? dxf_of(loops) : svg_of(loops));
}

} // namespace lp
