#include "outline/drawing.h"
#include "base/quantity.h"
#include <algorithm>

namespace lp {
namespace {
constexpr const char* element_names[] = {"line", "arc",    "circle",  "ellipse", "spline",    "point",
                                         "text", "import", "formula", "offset",  "silhouette"};
constexpr const char* constraint_names[] = {"coincident",    "on",      "horizontal", "vertical",   "parallel",
                                            "perpendicular", "tangent", "equal",      "midpoint",   "symmetric",
                                            "concentric",    "fixed",   "distance",   "distance_x", "distance_y",
                                            "length",        "angle",   "radius",     "diameter",   "arc_length"};
} // namespace

const char* element_kind_name(ElementKind kind) {
    return element_names[int(kind)];
}
const char* constraint_kind_name(ConstraintKind kind) {
    return constraint_names[int(kind)];
}
bool is_dimension(ConstraintKind kind) {
    return kind >= ConstraintKind::Distance;
}
QuantityKind quantity_of(ConstraintKind kind) {
    return kind == ConstraintKind::Angle ? QuantityKind::Angle : QuantityKind::Length;
}

const Element* Drawing::element(DrawingId id) const {
    // Few hundred at most are looked up by hand; solving builds its own index.
    for (const Element& e : elements)
        if (e.id == id) return &e;
    return nullptr;
}
Element* Drawing::element(DrawingId id) {
    return const_cast<Element*>(std::as_const(*this).element(id));
}
const Constraint* Drawing::constraint(DrawingId id) const {
    for (const Constraint& c : constraints)
        if (c.id == id) return &c;
    return nullptr;
}

DrawingId Drawing::next_id() const {
    DrawingId next = first_free_id;
    if (!points.empty()) next = std::max(next, points.rbegin()->first + 1);
    for (const Element& e : elements) next = std::max(next, e.id + 1);
    for (const Constraint& c : constraints) next = std::max(next, c.id + 1);
    return next;
}

DrawingId Drawing::add_point(const Vec2& at) {
    DrawingId id = next_id();
    points[id] = at;
    return id;
}

DrawingId Drawing::add(ElementKind kind, std::vector<DrawingId> on, double radius) {
    Element e;
    e.id = next_id();
    e.kind = kind;
    e.points = std::move(on);
    e.radius = radius;
    elements.push_back(e);
    return e.id;
}

DrawingId Drawing::add(ConstraintKind kind, std::vector<DrawingId> of, std::string value) {
    Constraint c;
    c.id = next_id();
    c.kind = kind;
    c.of = std::move(of);
    c.value = std::move(value);
    constraints.push_back(c);
    return c.id;
}

void Drawing::remove(const std::set<DrawingId>& wanted) {
    std::set<DrawingId> gone = wanted;
    auto is_gone = [&](DrawingId id) { return gone.count(id) > 0; };
    for (bool more = true; more;) {
        more = false;
        for (const Element& e : elements) {
            if (is_gone(e.id)) continue;
            bool points_gone = std::any_of(e.points.begin(), e.points.end(), is_gone);
            bool sources_gone = !e.of.empty() && std::all_of(e.of.begin(), e.of.end(), is_gone);
            if (points_gone || sources_gone) more = gone.insert(e.id).second || more;
        }
    }
    std::set<DrawingId> before;
    for (const Element& e : elements)
        for (DrawingId p : e.points)
            if (is_gone(e.id)) before.insert(p);
    std::erase_if(elements, [&](const Element& e) { return is_gone(e.id); });
    for (Element& e : elements) {
        std::erase_if(e.of, is_gone);
        for (DrawingId p : e.points) before.erase(p);
    }
    for (DrawingId p : before)
        if (points.count(p)) gone.insert(p); // nothing is drawn on it any more
    std::erase_if(points, [&](const auto& entry) { return is_gone(entry.first); });
    std::erase_if(constraints,
                  [&](const Constraint& c) { return is_gone(c.id) || std::any_of(c.of.begin(), c.of.end(), is_gone); });
}

std::vector<std::pair<std::string, QuantityKind>> element_quantities(ElementKind kind) {
    switch (kind) {
    case ElementKind::Text:
        return {{"size", QuantityKind::Length},
                {"spacing", QuantityKind::Length},
                {"angle", QuantityKind::Angle},
                {"thicken", QuantityKind::Length}};
    case ElementKind::Import:
        return {{"scale", QuantityKind::Number}, {"angle", QuantityKind::Angle}};
    case ElementKind::Formula:
        return {{"from", QuantityKind::Length}, {"to", QuantityKind::Length}};
    case ElementKind::Offset:
        return {{"distance", QuantityKind::Length}};
    default:
        return {};
    }
}

std::vector<std::pair<std::string, std::string*>> drawing_expressions(Drawing& drawing) {
    std::vector<std::pair<std::string, std::string*>> all;
    for (Constraint& c : drawing.constraints) {
        if (!is_dimension(c.kind)) continue;
        std::string words = constraint_kind_name(c.kind), of;
        std::replace(words.begin(), words.end(), '_', ' ');
        for (DrawingId id : c.of) of += (of.empty() ? "" : " and ") + element_words(drawing, id);
        all.emplace_back(words + " of " + of, &c.value);
    }
    for (Element& e : drawing.elements) {
        std::string words = element_words(drawing, e.id);
        for (auto& [name, text] : e.texts) {
            bool quantity = e.kind == ElementKind::Formula && name == "expression";
            for (const auto& [own, kind] : element_quantities(e.kind)) quantity = quantity || own == name;
            if (quantity) all.emplace_back(name + " of " + words, &text);
        }
    }
    return all;
}

std::vector<std::pair<std::string, const std::string*>> drawing_expressions(const Drawing& drawing) {
    auto all = drawing_expressions(const_cast<Drawing&>(drawing)); // looked at only
    return {all.begin(), all.end()};
}

std::string element_text(const Element& element, const std::string& name) {
    auto found = element.texts.find(name);
    if (found != element.texts.end()) return found->second;
    static const std::map<std::string, std::string> standard{
        {"size", "8 mm"},         {"spacing", "0 mm"},  {"angle", "0 deg"},   {"scale", "1"},       {"thicken", "0 mm"},
        {"from", "0 mm"},         {"to", "20 mm"},      {"distance", "1 mm"}, {"corners", "sharp"}, {"ends", "open"},
        {"font", "Manrope Bold"}, {"fill", "as drawn"}, {"axis", "y of x"},   {"side", "outside"},  {"bodies", "all"},
        {"expression", "x"},      {"text", "Text"},     {"ink", "dark"},      {"dark", "auto"},     {"mirrored", "no"}};
    auto text = standard.find(name);
    return text == standard.end() ? std::string() : text->second;
}

std::string element_words(const Drawing& drawing, DrawingId id) {
    if (id == origin_id) return "the origin";
    if (id == x_axis_id) return "the x axis";
    if (id == y_axis_id) return "the y axis";
    if (const Element* e = drawing.element(id))
        return std::string(element_kind_name(e->kind)) + " " + std::to_string(id);
    return "point " + std::to_string(id);
}

std::string constraint_words(const Constraint& c) {
    std::string kind = constraint_kind_name(c.kind);
    std::replace(kind.begin(), kind.end(), '_', ' ');
    if (is_dimension(c.kind)) return kind + " " + c.value;
    return kind;
}

} // namespace lp
