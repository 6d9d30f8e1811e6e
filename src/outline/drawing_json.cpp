// Reading and writing of drawings; docs/file-format.md describes the form.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/drawing.h"
#include <cstring>
#include <nlohmann/json.hpp>

namespace lp {
namespace {

using nlohmann::json;
constexpr size_t most_elements = 20000;

struct Refused {
    Problem problem;
};
[[noreturn]] void refuse(const std::string& sentence) {
    throw Refused{Problem{ProblemCode::File, "The drawing of an outline cannot be read: " + sentence + ".",
                          "Correct it in the file."}};
}

DrawingId id_of(const json& value, const std::string& where) {
    if (!value.is_number_integer() || value.get<int64_t>() < 0 || value.get<int64_t>() > 0x7fffffff)
        refuse(where + " is not a whole number from 0");
    return DrawingId(value.get<int64_t>());
}

double number_of(const json& value, const std::string& where) {
    if (!value.is_number() || !std::isfinite(value.get<double>()) ||
        std::fabs(value.get<double>()) > tolerance::largest_mm)
        refuse(where + " is not a number of mm within 100 m");
    return value.get<double>();
}

Vec2 place_of(const json& value, const std::string& where) {
    if (!value.is_array() || value.size() != 2) refuse(where + " is not two numbers");
    return {number_of(value[0], where), number_of(value[1], where)};
}

std::string text_of(const json& value, const std::string& where) {
    if (value.is_string()) return value.get<std::string>();
    if (value.is_number()) return format_number(value.get<double>(), 9);
    refuse(where + " is neither a text nor a number");
}

/// The kind of this name among the first `count`, by the names drawing.h gives; -1 for none.
template <class Kind> int index_of(const char* (*name_of)(Kind), int count, const std::string& name) {
    for (int i = 0; i < count; ++i)
        if (name == name_of(Kind(i))) return i;
    return -1;
}

class Reader {
  public:
    Drawing read(const json& from) {
        if (!from.is_object()) refuse("it is not an object in braces");
        if (auto points = from.find("points"); points != from.end()) {
            if (!points->is_object()) refuse("\"points\" is not an object in braces");
            for (auto& [key, value] : points->items()) {
                DrawingId id =
                    key.find_first_not_of("0123456789") == std::string::npos && key.size() < 10 && !key.empty()
                        ? DrawingId(std::stoul(key))
                        : 0;
                if (id < first_free_id) refuse("\"" + key + "\" cannot name a point: use a number from 10");
                drawing_.points[id] = place_of(value, "point " + key);
                used_.insert(id);
            }
        }
        next_ = 1'000'000;
        list(from, "elements", [&](const json& e) { element(e); });
        list(from, "constraints", [&](const json& c) { constraint(c); });
        check_references();
        return std::move(drawing_);
    }

  private:
    template <class Each> void list(const json& from, const char* name, Each each) {
        auto found = from.find(name);
        if (found == from.end() || found->is_null()) return;
        if (!found->is_array()) refuse(std::string("\"") + name + "\" is not a list");
        if (found->size() > most_elements) refuse(std::string("\"") + name + "\" has more than 20,000 entries");
        for (const json& item : *found) {
            if (!item.is_object()) refuse(std::string("an entry of \"") + name + "\" is not an object in braces");
            each(item);
        }
    }

    DrawingId take_id(const json& from) {
        auto found = from.find("id");
        DrawingId id = 0;
        if (found == from.end()) {
            do id = next_++;
            while (used_.count(id));
        } else {
            id = id_of(*found, "an id");
            if (id < first_free_id) refuse("ids below 10 are the origin's and the axes'");
        }
        if (!used_.insert(id).second) refuse("the id " + std::to_string(id) + " is used twice");
        return id;
    }

    void element(const json& from) {
        std::string kind = from.value("kind", json()).is_string() ? from["kind"].get<std::string>() : "";
        int index = index_of(element_kind_name, int(ElementKind::Silhouette) + 1, kind);
        if (index < 0) refuse("\"" + kind + "\" is no kind of element");
        Element e;
        e.kind = ElementKind(index);
        e.id = take_id(from);
        std::string where = kind + " " + std::to_string(e.id);
        if (auto points = from.find("points"); points != from.end()) {
            if (!points->is_array() || points->size() > most_elements) refuse(where + ": \"points\" is not a list");
            for (const json& p : *points) {
                if (p.is_array()) { // a place of its own
                    DrawingId id = next_++;
                    while (used_.count(id)) id = next_++;
                    used_.insert(id);
                    drawing_.points[id] = place_of(p, where);
                    e.points.push_back(id);
                } else {
                    e.points.push_back(id_of(p, where + ", a point"));
                }
            }
        }
        if (auto r = from.find("radius"); r != from.end()) e.radius = number_of(*r, where + ", radius");
        auto flag = [&](const char* name) {
            auto found = from.find(name);
            if (found == from.end()) return false;
            if (!found->is_boolean()) refuse(where + ", " + name + " is neither true nor false");
            return found->get<bool>();
        };
        e.construction = flag("construction");
        e.closed = flag("closed");
        if (auto of = from.find("of"); of != from.end()) {
            if (!of->is_array()) refuse(where + ": \"of\" is not a list");
            for (const json& id : *of) e.of.push_back(id_of(id, where + ", of"));
        }
        if (auto follows = from.find("follows"); follows != from.end())
            e.follows = GeometryItem(follows->is_string() ? follows->get<std::string>() : follows->dump());
        static const std::set<std::string> own{"id",           "kind",   "points", "radius",
                                               "construction", "closed", "of",     "follows"};
        for (auto& [key, value] : from.items())
            if (!own.count(key)) e.texts[key] = text_of(value, where + ", " + key);
        check_points(e, where);
        drawing_.elements.push_back(std::move(e));
    }

    void check_points(const Element& e, const std::string& where) {
        size_t low = 1, high = 1;
        if (e.kind == ElementKind::Line || e.kind == ElementKind::Ellipse) low = high = 2;
        if (e.kind == ElementKind::Arc) low = high = 3;
        if (e.kind == ElementKind::Spline) low = 2, high = 2000;
        if (e.kind == ElementKind::Offset || e.kind == ElementKind::Silhouette) low = high = 0;
        if (e.points.size() < low || e.points.size() > high)
            refuse(where + " has " + std::to_string(e.points.size()) + " points and needs " + std::to_string(low) +
                   (high > low ? " or more" : ""));
        if ((e.kind == ElementKind::Circle || e.kind == ElementKind::Ellipse) && !(e.radius > 0))
            refuse(where + " has no radius above 0");
    }

    void constraint(const json& from) {
        std::string kind = from.value("kind", json()).is_string() ? from["kind"].get<std::string>() : "";
        int index = index_of(constraint_kind_name, int(ConstraintKind::ArcLength) + 1, kind);
        if (index < 0) refuse("\"" + kind + "\" is no kind of constraint");
        Constraint c;
        c.kind = ConstraintKind(index);
        c.id = take_id(from);
        std::string where = kind + " " + std::to_string(c.id);
        auto of = from.find("of");
        if (of == from.end() || !of->is_array()) refuse(where + " does not say of what");
        for (const json& id : *of) c.of.push_back(id_of(id, where + ", of"));
        if (auto value = from.find("value"); value != from.end()) c.value = text_of(*value, where + ", value");
        if (is_dimension(c.kind) && c.value.empty()) refuse(where + " has no value");
        if (auto label = from.find("label"); label != from.end()) c.label = place_of(*label, where + ", label");
        drawing_.constraints.push_back(std::move(c));
    }

    void check_references() {
        std::set<DrawingId> elements{x_axis_id, y_axis_id};
        for (const Element& e : drawing_.elements) elements.insert(e.id);
        for (const Element& e : drawing_.elements) {
            std::string where = std::string(element_kind_name(e.kind)) + " " + std::to_string(e.id);
            for (DrawingId p : e.points)
                if (!drawing_.is_point(p)) refuse(where + " is on point " + std::to_string(p) + ", which is not there");
            for (DrawingId p : e.of)
                if (!elements.count(p)) refuse(where + " is of " + std::to_string(p) + ", which is not there");
        }
        for (const Constraint& c : drawing_.constraints)
            for (DrawingId id : c.of)
                if (!drawing_.is_point(id) && !elements.count(id))
                    refuse(std::string(constraint_kind_name(c.kind)) + " " + std::to_string(c.id) + " is of " +
                           std::to_string(id) + ", which is not there");
    }

    Drawing drawing_;
    std::set<DrawingId> used_;
    DrawingId next_ = 0;
};

double tidy(double v) {
    return std::round(v * 1e9) / 1e9 + 0.0;
}

} // namespace

Expected<Drawing> drawing_from_json(const json& from) {
    try {
        return Reader().read(from);
    } catch (const Refused& refused) {
        return pass_on(refused.problem);
    }
}

Expected<Drawing> drawing_from_text(const std::string& text) {
    if (text.empty()) return Drawing{};
    if (text.size() > 50'000'000)
        return problem(ProblemCode::File, "The drawing of an outline is larger than 50 MB.", "Bring it in as a file.");
    json parsed = json::parse(text, nullptr, false);
    if (parsed.is_discarded())
        return problem(ProblemCode::File, "The drawing of an outline is not readable JSON.", "Correct it in the file.");
    return drawing_from_json(parsed);
}

json drawing_json(const Drawing& drawing) {
    json points = json::object(), elements = json::array(), constraints = json::array();
    for (const auto& [id, p] : drawing.points) points[std::to_string(id)] = {tidy(p.x()), tidy(p.y())};
    for (const Element& e : drawing.elements) {
        json item{{"id", e.id}, {"kind", element_kind_name(e.kind)}};
        if (!e.points.empty()) item["points"] = e.points;
        if (e.radius != 0) item["radius"] = tidy(e.radius);
        if (e.construction) item["construction"] = true;
        if (e.closed) item["closed"] = true;
        if (!e.of.empty()) item["of"] = e.of;
        if (!e.follows.empty()) item["follows"] = e.follows.text();
        for (const auto& [name, text] : e.texts) item[name] = text;
        elements.push_back(std::move(item));
    }
    for (const Constraint& c : drawing.constraints) {
        json item{{"id", c.id}, {"kind", constraint_kind_name(c.kind)}, {"of", c.of}};
        if (!c.value.empty()) item["value"] = c.value;
        if (!c.label.isZero()) item["label"] = {tidy(c.label.x()), tidy(c.label.y())};
        constraints.push_back(std::move(item));
    }
    return {{"points", points}, {"elements", elements}, {"constraints", constraints}};
}

std::string drawing_text(const Drawing& drawing) {
    return drawing_json(drawing).dump();
}

} // namespace lp
