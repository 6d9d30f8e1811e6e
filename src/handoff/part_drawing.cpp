#include "handoff/part_drawing.h"
#include "base/quantity.h"
#include "base/text.h"
#include "handoff/edge_view.h"
#include "handoff/flat_outline.h"
#include "mesh/cross_section.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace lp {
namespace {

constexpr double point_mm = 25.4 / 72;
constexpr double side = 40;    // points left of a view: for a size that stands upright
constexpr double between = 46; // points below a view: its size, and what it is called
constexpr double head = 40;    // points above all: what it is, and the highest of the words beside a view

std::string mm(double value) {
    return format_number(value, 2);
}
std::string diameter_words(const SizeToMeasure& size) {
    const std::string often = size.at.size() > 1 ? std::to_string(size.at.size()) + " \u00d7 " : "";
    return often + "\u2300" + mm(size.drawn_mm) + (size.hole ? " hole" : "");
}

/// Points right of the view from above: for what leads to its round places.
double beside(const std::vector<SizeToMeasure>& sizes) {
    constexpr double letter = 0.6 * PageDrawing::letters;
    size_t letters = 0;
    for (const SizeToMeasure& size : sizes)
        if (size.round) letters = std::max(letters, diameter_words(size).size());
    return letters ? 24 + letter * double(letters) : 30;
}

/// Where the views lie, points. `k`: points a mm.
struct Layout {
    Layout(const Vec3& size, double k, double beside)
        : upper(std::max(size.y(), size.z()) * k), second(side + size.x() * k + beside),
          size(second + std::max(size.x(), size.y()) * k + 4, head + upper + between + size.z() * k + between) {}
    double upper;  ///< height of the upper row
    double second; ///< left end of the right column
    Vec2 size;
};

class ViewMaker {
  public:
    ViewMaker(const DrawnPart& part, double scale)
        : part_(part), k_(scale / point_mm), box_(bounding_box(*part.mesh)) {}

    PageDrawing make(const Task& task) {
        const Layout layout(box_.sizes(), k_, beside(part_.sizes));
        page_.size = layout.size;
        const double low = head + layout.upper + between, size_x = box_.sizes().x() * k_,
                     size_y = box_.sizes().y() * k_, size_z = box_.sizes().z() * k_;
        const Vec2 above(side, head + layout.upper - size_y), front(side, low), right(layout.second, low),
            cut(layout.second, head + layout.upper - size_z);
        view({Vec3::UnitX(), Vec3::UnitY()}, above, "from above", task);
        view({Vec3::UnitX(), Vec3::UnitZ()}, front, "from in front", task);
        view({Vec3::UnitY(), Vec3::UnitZ()}, right, "from the right", task);
        across(front, size_x, size_z, box_.sizes().x());
        upright(front, size_z, box_.sizes().z());
        upright(above, size_y, box_.sizes().y());
        rounds(above, size_x);
        section(above, cut, size_x);
        return std::move(page_);
    }

  private:
    void line(std::vector<Vec2> points, double thick, PageLine::Style style = PageLine::Style::Whole, double grey = 0) {
        page_.lines.push_back({std::move(points), thick, style, grey});
    }
    void text(const Vec2& at, std::string words, PageText::Align align = PageText::Align::Middle, bool bold = false) {
        page_.texts.push_back({at, std::move(words), align, bold});
    }

    /// `corner`: upper left of the view on the page.
    void view(const ViewAxes& axes, const Vec2& corner, const char* called, const Task& task) {
        const EdgeView edges = edge_view(*part_.mesh, axes, task);
        if (edges.box.isEmpty()) return;
        auto place = [&](const std::vector<Vec2>& path) {
            std::vector<Vec2> points;
            for (const Vec2& p : path)
                points.push_back(corner + k_ * Vec2(p.x() - edges.box.min().x(), edges.box.max().y() - p.y()));
            return points;
        };
        for (const auto& path : edges.hidden) line(place(path), 0.4, PageLine::Style::Dashes, 0.45);
        for (const auto& path : edges.seen) line(place(path), 0.9);
        text(corner + Vec2(edges.box.sizes().x() * k_ / 2, edges.box.sizes().y() * k_ + between - 12), called);
    }

    /// A size line with its arrows and the lines that lead to it (ISO 129-1).
    void arrow(const Vec2& tip, const Vec2& way) {
        const Vec2 aside(-way.y(), way.x());
        line({tip - way * 6 + aside * 1.6, tip, tip - way * 6 - aside * 1.6}, 0.4);
    }
    void size_line(const Vec2& from, const Vec2& to) {
        line({from, to}, 0.4);
        const Vec2 way = (to - from).normalized();
        arrow(from, -way);
        arrow(to, way);
    }
    void across(const Vec2& corner, double wide, double high, double size_mm) {
        const double y = corner.y() + high + 14;
        for (double x : {corner.x(), corner.x() + wide}) line({{x, corner.y() + high + 2}, {x, y + 3}}, 0.4);
        size_line({corner.x(), y}, {corner.x() + wide, y});
        text({corner.x() + wide / 2, y + 8}, mm(size_mm));
    }
    void upright(const Vec2& corner, double high, double size_mm) {
        const double x = corner.x() - 10;
        for (double y : {corner.y(), corner.y() + high}) line({{corner.x() - 2, y}, {x - 3, y}}, 0.4);
        size_line({x, corner.y()}, {x, corner.y() + high});
        text({x - 5, corner.y() + high / 2}, mm(size_mm), PageText::Align::Right);
    }

    Vec2 from_above(const Vec2& corner, const Vec3& p) const {
        return corner + k_ * Vec2(p.x() - box_.min().x(), box_.max().y() - p.y());
    }
    /// A cross at every axis, and each diameter told once at the right, led to from the place that is nearest.
    void rounds(const Vec2& corner, double wide) {
        struct Told {
            Vec2 rim;
            std::string words;
        };
        std::vector<Told> all;
        for (const SizeToMeasure& size : part_.sizes) {
            if (!size.round || size.at.empty()) continue;
            const double radius = size.drawn_mm / 2 * k_;
            Vec2 nearest(-1e9, 0);
            for (const Vec3& p : size.at) {
                const Vec2 at = from_above(corner, p);
                const double reach = radius + 3;
                line({at - Vec2(reach, 0), at + Vec2(reach, 0)}, 0.3, PageLine::Style::DashDot, 0.3);
                line({at - Vec2(0, reach), at + Vec2(0, reach)}, 0.3, PageLine::Style::DashDot, 0.3);
                if (at.x() > nearest.x()) nearest = at;
            }
            all.push_back({nearest + Vec2(std::cos(0.6), -std::sin(0.6)) * radius, diameter_words(size)});
        }
        std::stable_sort(all.begin(), all.end(), [](const Told& a, const Told& b) { return a.rim.y() < b.rim.y(); });
        double free = head - 12; // the next one's place, so that none lies over another
        for (const Told& told : all) {
            const double y = std::max(told.rim.y() - 12, free), x = corner.x() + wide + 12;
            line({told.rim, {x - 2, y}, {x + 6, y}}, 0.4);
            arrow(told.rim, (told.rim - Vec2(x - 2, y)).normalized());
            text({x + 8, y}, told.words, PageText::Align::Left);
            free = y + 11;
        }
    }

    /// Upright and from left to right, so far from the front; in the view's x and z, mm.
    std::vector<std::vector<Vec2>> cut(double y) const {
        return cross_section(*part_.mesh, plane_seen(-Vec3::UnitY(), {0, y + 1e-7, 0})); // not along an edge
    }
    /// Across the axis of the widest hole; else through the middle, or where most is cut if that is little.
    double cut_at() const {
        for (const SizeToMeasure& size : part_.sizes) // the widest comes first
            if (size.hole && !size.at.empty()) return size.at.front().y();
        double best = box_.center().y(), most = 2 * cut_area(best);
        for (int i = 1; i < 16; ++i) {
            const double y = box_.min().y() + box_.sizes().y() * i / 16;
            if (const double area = cut_area(y); area > most) {
                most = area;
                best = y;
            }
        }
        return best;
    }
    double cut_area(double y) const {
        double twice = 0;
        for (const auto& loop : cut(y))
            for (size_t i = 0; i < loop.size(); ++i) {
                const Vec2 &a = loop[i], &b = loop[(i + 1) % loop.size()];
                twice += a.x() * b.y() - a.y() * b.x();
            }
        return twice / 2;
    }

    /// Marked in the view from above.
    void section(const Vec2& above, const Vec2& corner, double wide) {
        const double y = cut_at();
        std::vector<std::vector<Vec2>> loops = cut(y);
        for (auto& loop : loops) {
            for (Vec2& p : loop) p = corner + k_ * Vec2(p.x() - box_.min().x(), box_.max().z() - p.y());
            if (loop.empty()) continue;
            std::vector<Vec2> closed = loop;
            closed.push_back(loop.front());
            line(closed, 0.9);
        }
        hatch(loops);
        const double at = from_above(above, {0, y, 0}).y();
        line({{above.x() - 6, at}, {above.x() + wide + 6, at}}, 0.5, PageLine::Style::DashDot);
        text({above.x() + wide + 9, at + 6}, "A", PageText::Align::Middle, true);
        text({above.x() - 5, at + 6}, "A", PageText::Align::Middle, true);
        text({corner.x() + wide / 2, corner.y() + box_.sizes().z() * k_ + between - 12}, "cut A\u2013A");
    }

    /// Slanting lines in what the loops enclose, by their crossings.
    void hatch(const std::vector<std::vector<Vec2>>& loops) {
        constexpr double apart = 5; // points
        const double slant = std::sqrt(0.5);
        auto turned = [&](const Vec2& p) { return Vec2((p.x() - p.y()) * slant, (p.x() + p.y()) * slant); };
        auto back = [&](double x, double y) { return Vec2((x + y) * slant, (y - x) * slant); };
        double low = 1e300, high = -1e300;
        for (const auto& loop : loops)
            for (const Vec2& p : loop) {
                low = std::min(low, turned(p).y());
                high = std::max(high, turned(p).y());
            }
        for (double y = low + apart / 2; y < high; y += apart) {
            std::vector<double> crossings;
            for (const auto& loop : loops)
                for (size_t i = 0; i < loop.size(); ++i) {
                    const Vec2 a = turned(loop[i]), b = turned(loop[(i + 1) % loop.size()]);
                    if ((a.y() > y) != (b.y() > y))
                        crossings.push_back(a.x() + (b.x() - a.x()) * (y - a.y()) / (b.y() - a.y()));
                }
            std::sort(crossings.begin(), crossings.end());
            for (size_t i = 0; i + 1 < crossings.size(); i += 2)
                line({back(crossings[i], y), back(crossings[i + 1], y)}, 0.3, PageLine::Style::Whole, 0.3);
        }
    }

    const DrawnPart& part_;
    double k_; ///< points a mm
    Box3 box_;
    PageDrawing page_;
};

std::string places_words(const SizeToMeasure& size, const Box3& box) {
    constexpr size_t most = 4;
    std::string words;
    for (size_t i = 0; i < std::min(most, size.at.size()); ++i)
        words += (i ? "; " : "") + mm(size.at[i].x() - box.min().x()) + ", " + mm(size.at[i].y() - box.min().y());
    return size.at.size() > most ? words + "; ..." : words;
}

} // namespace

double drawing_scale(const DrawnPart& part, const Vec2& room) {
    const Vec3 size = bounding_box(*part.mesh).sizes();
    const double aside = beside(part.sizes);
    // ISO 5455 (from memory): 50, 20, 10, 5, 2 to 1; 1 to 1; 1 to 2, 5, 10, 20, 50.
    for (double scale : {50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 1 / 2.0, 1 / 5.0, 1 / 10.0, 1 / 20.0, 1 / 50.0}) {
        const Vec2 needed = Layout(size, scale / point_mm, aside).size;
        if (needed.x() <= room.x() && needed.y() <= room.y()) return scale;
    }
    return 0;
}

std::string scale_words(double scale) {
    return scale >= 1 ? format_number(scale, 0) + " : 1" : "1 : " + format_number(1 / scale, 0);
}

PageDrawing draw_views(const DrawnPart& part, const Vec2& room, const Task& task) {
    const double scale = drawing_scale(part, room);
    if (scale == 0) return {};
    PageDrawing page = ViewMaker(part, scale).make(task);
    page.texts.push_back({{0, 6}, part.name, PageText::Align::Left, true});
    page.texts.push_back({{0, 18}, part.words + "; " + scale_words(scale) + ", mm, as it lies on the bed"});
    return page;
}

Expected<DrawnPart> part_to_draw(const Evaluation& evaluation, const Analysis& analysis, const std::string& name) {
    for (const PartPtr& part : evaluation.project->parts) {
        if (part->name != name) continue;
        const PartResult* made = evaluation.part(part->id);
        const PartAnalysis* known = analysis.part(part->id);
        if (!made || !known || !known->posed || known->posed->empty()) break;
        return DrawnPart{name, evaluation.project->name + "; " + material_of(*evaluation.project, *part).name,
                         known->posed.get(), sizes_to_measure(*made, *known, evaluation.project->printer)};
    }
    return problem(ProblemCode::Missing, "There is no printed part \"" + name + "\" with a body to draw.",
                   "Name one of the parts that are printed.");
}

Expected<std::string> drawing_pdf(const DrawnPart& part, Paper paper, const Task& task) {
    PdfWriter pdf(paper, part.name);
    const PageDrawing page = draw_views(part, pdf.room(), task);
    if (task.stopped()) return cancelled();
    if (page.lines.empty())
        return problem(ProblemCode::Range, "The part is too large for a drawing on this paper.",
                       "Draw it as its parts.");
    pdf.drawing(page);
    pdf.heading("To measure when it is printed");
    std::vector<std::vector<std::string>> rows;
    const Box3 box = bounding_box(*part.mesh);
    for (const SizeToMeasure& size : part.sizes)
        rows.push_back(
            {size.what, places_words(size, box), mm(size.drawn_mm) + " mm", mm(size.expected_mm) + " mm", "________"});
    pdf.table({{"What", 1.6},
               {"From the left, from the front, mm", 2.2},
               {"As drawn", 1, true},
               {"This printer", 1, true},
               {"Found", 1}},
              rows);
    return pdf.finish();
}

Expected<std::string> drawing_svg(const DrawnPart& part, Paper paper, const Task& task) {
    const Vec2 size = paper_points(paper);
    constexpr double margin = 36;
    const PageDrawing page = draw_views(part, size - 2 * Vec2(margin, margin), task);
    if (task.stopped()) return cancelled();
    if (page.lines.empty())
        return problem(ProblemCode::Range, "The part is too large for a drawing on this paper.",
                       "Draw it as its parts.");
    return svg_of(page);
}

} // namespace lp
