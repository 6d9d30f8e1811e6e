#include "formats/threemf_model.h"
#include "formats/threemf_mesh_text.h"
#include <cctype>
#include <charconv>
#include <cmath>
#include <cstring>
#include <map>
#include <pugixml.hpp>
#include <unordered_map>

namespace lp {
namespace {

struct Failed {
    Problem problem;
};

[[noreturn]] void refuse(const char* sentence, const char* advice = "The file is damaged; export it again.") {
    throw Failed{Problem{ProblemCode::File, sentence, advice}};
}

/// Without its namespace.
const char* local(const pugi::xml_node& node) {
    const char* colon = std::strchr(node.name(), ':');
    return colon ? colon + 1 : node.name();
}
bool is(const pugi::xml_node& node, const char* name) {
    return std::strcmp(local(node), name) == 0;
}
pugi::xml_node child(const pugi::xml_node& of, const char* name) {
    for (const pugi::xml_node& node : of.children())
        if (is(node, name)) return node;
    return {};
}

/// Whatever the locale; places are kept in single precision, as lib3mf keeps them.
double number(const char* text) {
    double value = 0;
    const char* end = text + std::strlen(text);
    while (text < end && (*text == ' ' || *text == '+')) ++text;
    const auto read = std::from_chars(text, end, value);
    if (read.ec != std::errc() || read.ptr != end || !std::isfinite(float(value)))
        refuse("A place in it is no number.");
    return double(float(value));
}
uint32_t whole(const char* text) {
    uint32_t value = 0;
    const char* end = text + std::strlen(text);
    const auto read = std::from_chars(text, end, value);
    if (read.ec != std::errc() || read.ptr != end) refuse("A number in it cannot be read.");
    return value;
}

using Matrix = Eigen::Matrix<double, 3, 4>;

/// Twelve numbers for row vectors: three rows of the linear part, then the way.
Matrix transform_of(const pugi::xml_node& node) {
    Matrix m = Matrix::Zero();
    m.leftCols<3>().setIdentity();
    const char* text = node.attribute("transform").value();
    if (!*text) return m;
    std::string words(text);
    for (char& c : words)
        if (c == '\t' || c == '\n' || c == '\r') c = ' ';
    size_t at = 0;
    for (int k = 0; k < 12; ++k) {
        at = words.find_first_not_of(' ', at);
        if (at == std::string::npos) refuse("A transform in it has fewer than twelve numbers.");
        const size_t end = std::min(words.find(' ', at), words.size());
        m(k % 3, k / 3) = number(words.substr(at, end - at).c_str());
        at = end;
    }
    return m;
}

void move_mesh(TriMesh& mesh, const Matrix& m) {
    for (Vec3& v : mesh.vertices) v = m.leftCols<3>() * v + m.col(3);
    if (m.leftCols<3>().determinant() < 0)
        for (Triangle& t : mesh.triangles) std::swap(t[1], t[2]);
}

class ModelReader {
  public:
    ModelReader(const pugi::xml_node& model, std::vector<TriMesh> lifted) : model_(model), lifted_(std::move(lifted)) {
        for (const pugi::xml_node& node : child(model, "resources").children()) {
            if (is(node, "object")) objects_[node.attribute("id").value()] = node;
            if (is(node, "basematerials"))
                for (const pugi::xml_node& base : node.children())
                    if (is(base, "base"))
                        colours_[node.attribute("id").value()].push_back(base.attribute("displaycolor").value());
        }
    }

    std::vector<FileObject> read() {
        const double scale = unit_mm();
        std::vector<FileObject> all;
        for (const pugi::xml_node& item : child(model_, "build").children()) {
            if (!is(item, "item")) continue;
            const pugi::xml_node object = object_called(item.attribute("objectid").value());
            FileObject out;
            out.name = name_of_copy(object.attribute("name").value(), item.attribute("partnumber").value());
            const std::string type = object.attribute("type").value();
            out.support = type == "support" || type == "solidsupport";
            if (const auto colour = colour_of(object)) out.colour = *colour;
            out.mesh = mesh_of(object, 0);
            move_mesh(out.mesh, transform_of(item));
            for (Vec3& v : out.mesh.vertices) v *= scale;
            all.push_back(std::move(out));
        }
        if (all.empty()) refuse("It holds nothing that is to be built.", "Choose another file.");
        return all;
    }

  private:
    double unit_mm() const {
        static const std::map<std::string, double> units{
            {"", 1},        {"millimeter", 1}, {"micron", 0.001}, {"centimeter", 10},
            {"inch", 25.4}, {"foot", 304.8},   {"meter", 1000}};
        const auto found = units.find(model_.attribute("unit").value());
        if (found == units.end()) refuse("Its unit is none of the standard's.");
        return found->second;
    }
    pugi::xml_node object_called(const char* id) const {
        const auto found = objects_.find(id);
        if (found == objects_.end()) refuse("An object that is to be built is not there.");
        return found->second;
    }
    std::optional<uint32_t> colour_of(const pugi::xml_node& object) const {
        const auto group = colours_.find(object.attribute("pid").value());
        if (group == colours_.end()) return std::nullopt;
        const char* index = object.attribute("pindex").value();
        const size_t at = *index ? whole(index) : 0;
        if (at >= group->second.size()) return std::nullopt;
        const std::string& text = group->second[at]; // "#RRGGBB" or "#RRGGBBAA"
        uint32_t rgb = 0;
        if (text.size() < 7 || text[0] != '#' ||
            std::from_chars(text.data() + 1, text.data() + 7, rgb, 16).ptr != text.data() + 7)
            return std::nullopt;
        return rgb;
    }
    TriMesh mesh_of(const pugi::xml_node& object, int depth) {
        if (depth > 16)
            throw Failed{Problem{ProblemCode::File, "Its components are nested more than 16 deep.", "Export it flat."}};
        TriMesh result;
        if (const pugi::xml_node mesh = child(object, "mesh")) {
            if (const pugi::xml_attribute number = mesh.attribute("lifted"); number && !lifted_.empty()) {
                const size_t which = whole(number.value());
                if (which >= lifted_.size()) refuse("A mesh in it is not there.");
                const TriMesh& its = lifted_[which];
                for (const Triangle& t : its.triangles)
                    for (uint32_t c : t)
                        if (c >= its.vertices.size()) refuse("A facet has a corner that is not there.");
                take(its.triangles.size());
                return its;
            }
            for (const pugi::xml_node& v : child(mesh, "vertices").children())
                if (is(v, "vertex"))
                    result.vertices.push_back({number(v.attribute("x").value()), number(v.attribute("y").value()),
                                               number(v.attribute("z").value())});
            for (const pugi::xml_node& t : child(mesh, "triangles").children()) {
                if (!is(t, "triangle")) continue;
                const Triangle corners{whole(t.attribute("v1").value()), whole(t.attribute("v2").value()),
                                       whole(t.attribute("v3").value())};
                for (uint32_t c : corners)
                    if (c >= result.vertices.size()) refuse("A facet has a corner that is not there.");
                result.triangles.push_back(corners);
            }
            take(result.triangles.size());
            return result;
        }
        for (const pugi::xml_node& part : child(object, "components").children()) {
            if (!is(part, "component")) continue;
            TriMesh one = mesh_of(object_called(part.attribute("objectid").value()), depth + 1);
            move_mesh(one, transform_of(part));
            append(result, one);
        }
        return result;
    }
    void take(size_t facets) {
        constexpr size_t most = 40'000'000;
        facets_ += facets;
        if (facets_ > most) refuse("It holds more than 40 million facets.", "Simplify it first.");
    }

    pugi::xml_node model_;
    std::vector<TriMesh> lifted_; ///< meshes that were read before, by the number their element has
    std::unordered_map<std::string, pugi::xml_node> objects_;
    std::unordered_map<std::string, std::vector<std::string>> colours_;
    size_t facets_ = 0;
};

} // namespace

std::string name_of_copy(const std::string& object, const std::string& number) {
    return !object.empty() && number.starts_with(object) ? number : object;
}

size_t count_threemf_objects(const std::string& model) {
    size_t count = 0;
    for (size_t at = model.find("object"); at != std::string::npos; at = model.find("object", at + 1)) {
        const char after = at + 6 < model.size() ? model[at + 6] : '\0';
        if (after != ' ' && after != '\t' && after != '\n' && after != '\r') continue;
        constexpr size_t longest_prefix = 64;
        size_t from = at; // back over a namespace to where the tag opens
        while (from > 0 && at - from < longest_prefix &&
               (std::isalnum((unsigned char)(model[from - 1])) || std::strchr(":_-.", model[from - 1]) != nullptr))
            --from;
        count += from > 0 && model[from - 1] == '<' && (from == at || model[at - 1] == ':');
    }
    return count;
}

Expected<std::vector<FileObject>> read_threemf_model(std::string model) {
    pugi::xml_document document;
    std::vector<TriMesh> lifted = lift_threemf_meshes(model);
    // Declarations of types and entities are not looked into: nothing can grow.
    if (!document.load_buffer(model.data(), model.size(), pugi::parse_default & ~pugi::parse_doctype))
        return problem(ProblemCode::File, "The model in this package is no XML, or is cut off.", "Export it again.");
    try {
        const pugi::xml_node root = child(document, "model");
        if (!root) refuse("There is no 3D model in this package.", "Choose another file.");
        return ModelReader(root, std::move(lifted)).read();
    } catch (const Failed& failed) {
        return pass_on(failed.problem);
    }
}

} // namespace lp
