#include "base/quantity.h"
#include "base/text.h"
#include "base/tolerance.h"
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "formats/svg_entities.h"
#include "formats/svg_path.h"
#include <charconv>
#include <cmath>
#include <cstring>
#include <map>
#include <pugixml.hpp>
#include <sstream>

namespace lp {
namespace {

constexpr double px_mm =
    25.4 / 96; // CSS reference pixel; SVG 1.1 leaves it open, CSS 2.1 and all current writers use it
constexpr size_t most_bytes = 64u << 20, most_pieces = 2'000'000;
constexpr int deepest_nesting = 200, deepest_use = 32;

using Style = std::map<std::string, std::string>;

/// A number with a unit; nothing when it cannot be read. `unit` gets "px" when none is written.
std::optional<double> length_mm(const std::string& text, std::string* unit = nullptr) {
    double v = 0;
    size_t from = text.find_first_not_of(" \t\n\r");
    if (from == std::string::npos) return std::nullopt;
    auto [end, error] = std::from_chars(text.data() + from + (text[from] == '+'), text.data() + text.size(), v);
    if (error != std::errc() || !std::isfinite(v)) return std::nullopt;
    std::string u(end, text.data() + text.size());
    u.erase(u.find_last_not_of(" \t\n\r") + 1);
    static const std::map<std::string, double> units{{"", px_mm},  {"px", px_mm},     {"mm", 1},        {"cm", 10},
                                                     {"in", 25.4}, {"pt", 25.4 / 72}, {"pc", 25.4 / 6}, {"Q", 0.25}};
    auto found = units.find(u);
    if (found == units.end()) return std::nullopt;
    if (unit) *unit = u.empty() ? "px" : u;
    return v * found->second;
}

std::vector<double> numbers_in(const std::string& text) {
    std::vector<double> numbers;
    size_t i = 0;
    while (i < text.size()) {
        if (std::isspace(static_cast<unsigned char>(text[i])) || text[i] == ',' || text[i] == '+') {
            ++i;
            continue;
        }
        double v;
        auto [end, error] = std::from_chars(text.data() + i, text.data() + text.size(), v);
        if (error != std::errc()) break;
        numbers.push_back(v);
        i = size_t(end - text.data());
    }
    return numbers;
}

Eigen::Affine2d parse_transform(const std::string& text) {
    Eigen::Affine2d all = Eigen::Affine2d::Identity();
    for (size_t i = 0; i < text.size();) {
        size_t open = text.find('(', i), close = text.find(')', i);
        if (open == std::string::npos || close == std::string::npos || close < open) break;
        std::string name = text.substr(i, open - i);
        name.erase(0, name.find_first_not_of(" \t\n\r,"));
        name.erase(name.find_last_not_of(" \t\n\r") + 1);
        std::vector<double> v = numbers_in(text.substr(open + 1, close - open - 1));
        i = close + 1;
        Eigen::Affine2d one = Eigen::Affine2d::Identity();
        size_t n = v.size();
        if (name == "matrix" && n == 6) {
            one.linear() << v[0], v[2], v[1], v[3];
            one.translation() = Vec2(v[4], v[5]);
        } else if (name == "translate" && n >= 1) {
            one.translation() = Vec2(v[0], n > 1 ? v[1] : 0);
        } else if (name == "scale" && n >= 1) {
            one.linear() << v[0], 0, 0, n > 1 ? v[1] : v[0];
        } else if (name == "rotate" && n >= 1) {
            Vec2 c = n >= 3 ? Vec2(v[1], v[2]) : Vec2(0, 0);
            one.translate(c);
            one.rotate(radians(v[0]));
            one.translate(-c);
        } else if (name == "skewX" && n == 1) {
            one.linear()(0, 1) = std::tan(radians(v[0]));
        } else if (name == "skewY" && n == 1) {
            one.linear()(1, 0) = std::tan(radians(v[0]));
        }
        all = all * one;
    }
    return all;
}

void read_declarations(const std::string& text, Style& into) {
    std::istringstream stream(text);
    std::string part;
    auto trim = [](std::string s) {
        s.erase(0, s.find_first_not_of(" \t\n\r"));
        s.erase(s.find_last_not_of(" \t\n\r") + 1);
        return s;
    };
    while (std::getline(stream, part, ';')) {
        size_t colon = part.find(':');
        if (colon != std::string::npos) into[trim(part.substr(0, colon))] = trim(part.substr(colon + 1));
    }
}

/// What passes down the tree.
struct Inherited {
    bool evenodd = false, filled = true, visible = true;
    Eigen::Affine2d map = Eigen::Affine2d::Identity();
    double width = 100, height = 100; ///< of the viewport, user units: percentages refer to it
};

class SvgReader {
  public:
    Expected<FlatPaths> run(const std::string& bytes) {
        if (bytes.size() > most_bytes)
            return problem(ProblemCode::File, "The SVG file is larger than 64 MB.", "Bring in a simpler drawing.");
        const auto plain = with_entities(bytes, most_bytes);
        if (!plain) return pass_on(plain);
        const std::string& text = plain->used.empty() ? bytes : plain->text;
        if (const size_t used = plain->used.size())
            result_.findings.push_back({"entities",
                                        used,
                                        {},
                                        counted(used, "entity of the file was", "entities of the file were") +
                                            " put in where they are named."});
        auto parsed = document_.load_buffer(text.data(), text.size(), pugi::parse_default | pugi::parse_trim_pcdata);
        if (!parsed)
            return problem(ProblemCode::File,
                           std::string("The SVG file cannot be read at character ") + std::to_string(parsed.offset) +
                               ": " + parsed.description() + ".",
                           "It may be cut off; fetch it again.");
        pugi::xml_node root = document_.document_element();
        if (local(root) != "svg")
            return problem(ProblemCode::File, "This is no SVG file: it begins with <" + std::string(root.name()) + ">.",
                           "Choose an SVG or DXF file.");
        collect(root, 0);
        result_.format = "svg";
        result_.y_down = true;
        Inherited state;
        if (auto wrong = view_port(root, state, true)) return pass_on(*wrong);
        children(root, with_style(root, state), 0, 0);
        if (failed_) return pass_on(*failed_);
        settle();
        return std::move(result_);
    }

  private:
    static std::string local(const pugi::xml_node& node) {
        std::string name = node.name();
        size_t colon = name.find(':');
        return colon == std::string::npos ? name : name.substr(colon + 1);
    }

    /// Names things for `use`, and reads style sheets.
    void collect(const pugi::xml_node& node, int depth) {
        if (depth > deepest_nesting) {
            failed_ = Problem{ProblemCode::File, "The SVG file is nested deeper than 200 levels.", "Simplify it."};
            return;
        }
        if (*node.attribute("id").value()) by_id_.emplace(node.attribute("id").value(), node);
        if (local(node) == "style") read_sheet(node.text().get());
        for (pugi::xml_node child : node.children())
            if (child.type() == pugi::node_element) collect(child, depth + 1);
    }

    void read_sheet(std::string css) {
        for (size_t from; (from = css.find("/*")) != std::string::npos;) {
            size_t to = css.find("*/", from);
            css.erase(from, to == std::string::npos ? to : to + 2 - from);
        }
        for (size_t i = 0; i < css.size();) {
            size_t open = css.find('{', i), close = css.find('}', i);
            if (open == std::string::npos || close == std::string::npos || close < open) break;
            std::istringstream selectors(css.substr(i, open - i));
            std::string selector;
            while (std::getline(selectors, selector, ',')) {
                selector.erase(0, selector.find_first_not_of(" \t\n\r"));
                selector.erase(selector.find_last_not_of(" \t\n\r") + 1);
                read_declarations(css.substr(open + 1, close - open - 1), sheet_[selector]);
            }
            i = close + 1;
        }
    }

    /// The cascade: presentation attributes, sheet by element, class and id, then the style attribute.
    Style style_of(const pugi::xml_node& node) const {
        Style style;
        for (const char* name : {"fill", "fill-rule", "display", "visibility"})
            if (pugi::xml_attribute a = node.attribute(name)) style[name] = a.value();
        auto apply = [&](const std::string& selector) {
            auto found = sheet_.find(selector);
            if (found == sheet_.end()) return;
            for (const auto& [name, value] : found->second) style[name] = value;
        };
        if (!sheet_.empty()) {
            apply("*");
            apply(local(node));
            std::istringstream classes(node.attribute("class").value());
            std::string name;
            while (classes >> name) apply("." + name), apply(local(node) + "." + name);
            if (*node.attribute("id").value()) apply(std::string("#") + node.attribute("id").value());
        }
        read_declarations(node.attribute("style").value(), style);
        return style;
    }

    Inherited with_style(const pugi::xml_node& node, Inherited state) const {
        Style style = style_of(node);
        auto given = [&](const char* name) -> const std::string* {
            auto found = style.find(name);
            return found == style.end() || found->second == "inherit" ? nullptr : &found->second;
        };
        if (auto v = given("fill-rule")) state.evenodd = *v == "evenodd";
        if (auto v = given("fill")) state.filled = *v != "none" && *v != "transparent";
        if (auto v = given("visibility")) state.visible = *v == "visible";
        return state;
    }
    bool displayed(const pugi::xml_node& node) const {
        Style style = style_of(node);
        auto found = style.find("display");
        return found == style.end() || found->second != "none";
    }

    double user(const pugi::xml_node& node, const char* name, double whole, double otherwise = 0) const {
        std::string text = node.attribute(name).value();
        if (text.empty()) return otherwise;
        if (text.back() == '%') {
            auto v = numbers_in(text);
            return v.empty() ? otherwise : v[0] / 100 * whole;
        }
        auto mm = length_mm(text);
        return mm ? *mm / px_mm : otherwise; // px are user units; other units in proportion
    }

    /// Size, view box and its fit (preserveAspectRatio).
    std::optional<Problem> view_port(const pugi::xml_node& node, Inherited& state, bool outermost) {
        std::vector<double> box = numbers_in(node.attribute("viewBox").value());
        bool has_box = box.size() == 4 && box[2] > 0 && box[3] > 0;
        if (node.attribute("viewBox") && !has_box && outermost)
            add_finding("view_box", {}, "The view box cannot be read and is left out of account.");
        double width, height;
        if (outermost) {
            std::string unit = "px", w = node.attribute("width").value(), h = node.attribute("height").value();
            double wide = w.empty() || w.back() == '%' ? 0 : length_mm(w, &unit).value_or(0);
            double high = h.empty() || h.back() == '%' ? 0 : length_mm(h).value_or(0);
            if (wide < 0 || high < 0)
                return Problem{ProblemCode::File, "The drawing's width or height is below 0.",
                               "Set its width and height."};
            double bw = has_box ? box[2] * px_mm : 100 * px_mm, bh = has_box ? box[3] * px_mm : 100 * px_mm;
            // One size given: the other by the proportion of the view box.
            if (!(wide > 0) && high > 0 && has_box) wide = high * box[2] / box[3];
            if (wide > 0 && !(high > 0) && has_box) high = wide * box[3] / box[2];
            if (!(wide > 0) || !(high > 0)) {
                if (has_box)
                    add_finding("unit", {}, "The file does not say its size: one unit is taken as a pixel, 1/96 inch.");
                unit = "px";
            }
            width = wide > 0 ? wide : bw, height = high > 0 ? high : bh;
            if (!(width > 0 && height > 0 && width <= tolerance::largest_mm && height <= tolerance::largest_mm))
                return Problem{ProblemCode::File, "The drawing's size is not above 0 and below 100 m.",
                               "Set its width and height."};
            result_.unit = unit;
            result_.height_mm = height;
        } else {
            width = user(node, "width", state.width, state.width);
            height = user(node, "height", state.height, state.height);
            state.map.translate(Vec2(user(node, "x", state.width), user(node, "y", state.height)));
        }
        if (!has_box) {
            if (outermost) state.map.scale(px_mm), width /= px_mm, height /= px_mm;
            state.width = width, state.height = height;
            return std::nullopt;
        }
        double sx = width / box[2], sy = height / box[3], dx = 0, dy = 0;
        std::string fit = node.attribute("preserveAspectRatio").value();
        if (fit.rfind("none", 0) != 0) {
            double s = fit.find("slice") != std::string::npos ? std::max(sx, sy) : std::min(sx, sy);
            auto share = [&](const char* low, const char* high) {
                return fit.find(low) != std::string::npos ? 0.0 : fit.find(high) != std::string::npos ? 1.0 : 0.5;
            };
            dx = (width - s * box[2]) * share("xMin", "xMax");
            dy = (height - s * box[3]) * share("YMin", "YMax");
            sx = sy = s;
        }
        state.map.translate(Vec2(dx, dy));
        state.map.scale(Vec2(sx, sy));
        state.map.translate(Vec2(-box[0], -box[1]));
        state.width = box[2], state.height = box[3];
        return std::nullopt;
    }

    void children(const pugi::xml_node& node, const Inherited& state, int depth, int uses) {
        for (pugi::xml_node child : node.children())
            if (child.type() == pugi::node_element) element(child, state, depth + 1, uses);
    }

    void element(const pugi::xml_node& node, const Inherited& parent, int depth, int uses) {
        if (failed_ || !displayed(node)) return;
        std::string name = local(node);
        static const std::map<std::string, const char*> unusable{
            {"text", "Text in the file is not drawn: turn it into paths there, or write it here."},
            {"image", "Pictures in the file have no outline."},
            {"foreignObject", "Foreign objects in the file are not drawn."}};
        if (auto found = unusable.find(name); found != unusable.end()) return add_finding(name, {}, found->second);
        Inherited state = with_style(node, parent);
        state.map = state.map * parse_transform(node.attribute("transform").value());
        if (name == "g" || name == "a" || name == "switch") return children(node, state, depth, uses);
        if (name == "svg") {
            view_port(node, state, false);
            return children(node, state, depth, uses);
        }
        if (name == "use") return use(node, state, depth, uses);
        std::vector<SvgSubpath> subpaths = shape(node, name, state);
        if (!subpaths.empty() && state.visible) keep(subpaths, state);
    }

    void use(const pugi::xml_node& node, Inherited state, int depth, int uses) {
        std::string target =
            node.attribute("href") ? node.attribute("href").value() : node.attribute("xlink:href").value();
        if (target.empty() || target[0] != '#')
            return add_finding("use", {}, "A use of something outside the file is left out.");
        auto found = by_id_.find(target.substr(1));
        if (found == by_id_.end())
            return add_finding("use", {}, "A use of \"" + target + "\", which is not there, is left out.");
        if (uses >= deepest_use) {
            failed_ = Problem{ProblemCode::File,
                              "The SVG file uses \"" + target + "\" inside itself, or deeper than 32 levels.",
                              "Correct it in the program it comes from."};
            return;
        }
        state.map.translate(Vec2(user(node, "x", state.width), user(node, "y", state.height)));
        pugi::xml_node what = found->second;
        if (local(what) == "symbol") {
            Inherited inner = with_style(what, state);
            if (what.attribute("viewBox") && node.attribute("width") && node.attribute("height")) {
                inner.width = user(node, "width", state.width), inner.height = user(node, "height", state.height);
                view_port(what, inner, false);
            }
            return children(what, inner, depth, uses + 1);
        }
        element(what, state, depth + 1, uses + 1);
    }

    std::vector<SvgSubpath> shape(const pugi::xml_node& node, const std::string& name, const Inherited& s) {
        double across = std::sqrt((s.width * s.width + s.height * s.height) / 2);
        auto x = [&](const char* a, double otherwise = 0) { return user(node, a, s.width, otherwise); };
        auto y = [&](const char* a, double otherwise = 0) { return user(node, a, s.height, otherwise); };
        if (name == "path") {
            SvgPath path = parse_svg_path(node.attribute("d").value());
            if (!path.complete)
                add_finding("path", {},
                            "A path's data are wrong at character " + std::to_string(path.stopped_at) +
                                "; what comes before is drawn.");
            return path.subpaths;
        }
        if (name == "circle") {
            double r = user(node, "r", across);
            if (r <= 0) return {};
            return {{{Curve::circle({x("cx"), y("cy")}, r)}, true}};
        }
        if (name == "ellipse") {
            double rx = x("rx"), ry = y("ry");
            if (rx <= 0 || ry <= 0) return {};
            Vec2 c(x("cx"), y("cy"));
            Curve e = std::fabs(rx - ry) < 1e-12 ? Curve::circle(c, rx)
                      : rx > ry                  ? Curve::ellipse(c, {rx, 0}, ry, 0, 2 * std::numbers::pi)
                                                 : Curve::ellipse(c, {0, ry}, rx, 0, 2 * std::numbers::pi);
            return {{{e}, true}};
        }
        if (name == "rect") return rectangle(x("x"), y("y"), x("width"), y("height"), x("rx", -1), y("ry", -1));
        if (name == "line") return {{{Curve::line({x("x1"), y("y1")}, {x("x2"), y("y2")})}, false}};
        if (name == "polyline" || name == "polygon") {
            std::vector<double> v = numbers_in(node.attribute("points").value());
            SvgSubpath path;
            path.closed = name == "polygon";
            std::vector<Vec2> points;
            for (size_t i = 0; i + 1 < v.size(); i += 2)
                if (Vec2 p(v[i], v[i + 1]); points.empty() || (p - points.back()).norm() > 0) points.push_back(p);
            if (path.closed && points.size() > 1 && (points.front() - points.back()).norm() > 0)
                points.push_back(points.front());
            for (size_t i = 0; i + 1 < points.size(); ++i) path.curves.push_back(Curve::line(points[i], points[i + 1]));
            if (path.curves.empty()) return {};
            return {path};
        }
        return {};
    }

    static std::vector<SvgSubpath> rectangle(double x, double y, double w, double h, double rx, double ry) {
        if (!(w > 0 && h > 0)) return {};
        if (rx < 0) rx = ry;
        if (ry < 0) ry = rx;
        rx = std::clamp(rx, 0.0, w / 2), ry = std::clamp(ry, 0.0, h / 2);
        if (rx <= 0 || ry <= 0) rx = ry = 0;
        // As a path of the grammar: the recommendation defines rounded rectangles that way.
        std::ostringstream d;
        d.precision(17);
        d << "M" << x + rx << " " << y << "H" << x + w - rx;
        auto corner = [&](double cx, double cy) {
            if (rx > 0) d << "A" << rx << " " << ry << " 0 0 1 " << cx << " " << cy;
        };
        corner(x + w, y + ry);
        d << "V" << y + h - ry;
        corner(x + w - rx, y + h);
        d << "H" << x + rx;
        corner(x, y + h - ry);
        d << "V" << y + ry;
        corner(x + rx, y);
        d << "Z";
        return parse_svg_path(d.str()).subpaths;
    }

    void keep(const std::vector<SvgSubpath>& subpaths, const Inherited& state) {
        FlatPath path;
        path.fill = state.evenodd ? FillRule::EvenOdd : FillRule::NonZero;
        path.painted = int(result_.paths.size());
        for (const SvgSubpath& s : subpaths) {
            std::vector<Curve> curves;
            for (const Curve& c : s.curves) {
                Curve m = c.mapped(state.map);
                if (!m.finite() || m.box().min().cwiseAbs().maxCoeff() > tolerance::largest_mm ||
                    m.box().max().cwiseAbs().maxCoeff() > tolerance::largest_mm) {
                    add_finding("range", {}, "A path beyond 100 m is left out.");
                    curves.clear();
                    break;
                }
                if (m.length() > 1e-9) curves.push_back(std::move(m));
            }
            pieces_ += curves.size();
            if (pieces_ > most_pieces) {
                failed_ = Problem{ProblemCode::File, "The SVG file has more than two million path pieces.",
                                  "Bring in a simpler drawing."};
                return;
            }
            if (curves.empty()) continue;
            double gap = (curves.front().first() - curves.back().last()).norm();
            path.closed.push_back(s.closed || gap <= 0.01 || curves.front().closed());
            path.contours.push_back(std::move(curves));
        }
        if (path.contours.empty()) return;
        result_.paths.push_back(std::move(path));
        filled_.push_back(state.filled);
    }

    /// Stroked paths are outlines where nothing is filled; beside filled ones they are decoration.
    void settle() {
        size_t filled = size_t(std::count(filled_.begin(), filled_.end(), true)), only_lines = filled_.size() - filled;
        if (filled && only_lines) {
            std::vector<FlatPath> kept;
            for (size_t i = 0; i < filled_.size(); ++i)
                if (filled_[i]) kept.push_back(std::move(result_.paths[i]));
            result_.paths = std::move(kept);
            result_.findings.push_back({"stroke",
                                        only_lines,
                                        {},
                                        std::to_string(only_lines) + (only_lines == 1 ? " path is" : " paths are") +
                                            " only stroked and left out: the file fills others."});
        } else if (only_lines) {
            for (FlatPath& path : result_.paths) path.fill.reset();
            result_.findings.push_back(
                {"stroke", only_lines, {}, "Nothing in the file is filled: its lines are taken as the outline."});
        }
        for (const FlatPath& path : result_.paths)
            for (size_t k = 0; k < path.contours.size(); ++k)
                if (!path.closed[k]) {
                    Vec2 a = path.contours[k].front().first(), b = path.contours[k].back().last();
                    add_finding("open_path", a,
                                "A path is open: its ends are " +
                                    format_quantity((a - b).norm(), QuantityKind::Length) + " apart.");
                }
    }

    void add_finding(const std::string& kind, std::optional<Vec2> where, const std::string& says) {
        for (FlatFinding& f : result_.findings)
            if (f.kind == kind) {
                ++f.count;
                return;
            }
        result_.findings.push_back({kind, 1, where, says});
    }

    pugi::xml_document document_;
    std::map<std::string, pugi::xml_node> by_id_;
    std::map<std::string, Style> sheet_;
    FlatPaths result_;
    std::vector<bool> filled_;
    std::optional<Problem> failed_;
    size_t pieces_ = 0;
};

} // namespace

Expected<FlatPaths> read_svg(const std::string& bytes) {
    return SvgReader().run(bytes);
}

FileFormat svg_format() {
    FileFormat format{.id = "svg", .title = "SVG", .endings = {"svg"}, .content = FileFormat::Content::Flat};
    format.looks_like = [](std::string_view bytes) { return bytes.find("<svg") != std::string_view::npos; };
    format.read_flat = read_svg;
    return format;
}

} // namespace lp
