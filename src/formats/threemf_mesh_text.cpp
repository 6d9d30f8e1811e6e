#include "formats/threemf_mesh_text.h"
#include <charconv>
#include <cmath>
#include <cstring>
#include <future>

namespace lp {
namespace {

constexpr std::string_view opens = "<mesh>", closes = "</mesh>";

/// Text that grows by pieces of known largest size.
class Text {
  public:
    explicit Text(size_t room) { text_.resize(room); }
    void add(std::string_view words) {
        std::memcpy(text_.data() + at_, words.data(), words.size());
        at_ += words.size();
    }
    template <class Number> void number(Number value) {
        at_ = size_t(std::to_chars(text_.data() + at_, text_.data() + text_.size(), value).ptr - text_.data());
    }
    std::string take() {
        text_.resize(at_);
        return std::move(text_);
    }

  private:
    std::string text_;
    size_t at_ = 0;
};

std::string vertices_text(const TriMesh& mesh) {
    constexpr size_t most_a_line = 80; // a float has at most 16 characters
    Text text(mesh.vertices.size() * most_a_line + 64);
    text.add("<vertices>\n");
    for (const Vec3& v : mesh.vertices) {
        text.add("<vertex x=\"");
        text.number(float(v.x()));
        text.add("\" y=\"");
        text.number(float(v.y()));
        text.add("\" z=\"");
        text.number(float(v.z()));
        text.add("\"/>\n");
    }
    text.add("</vertices>\n");
    return text.take();
}

std::string triangles_text(const TriMesh& mesh) {
    constexpr size_t most_a_line = 72;
    Text text(mesh.triangles.size() * most_a_line + 64);
    text.add("<triangles>\n");
    for (const Triangle& t : mesh.triangles) {
        text.add("<triangle v1=\"");
        text.number(t[0]);
        text.add("\" v2=\"");
        text.number(t[1]);
        text.add("\" v3=\"");
        text.number(t[2]);
        text.add("\"/>\n");
    }
    text.add("</triangles>\n");
    return text.take();
}

/// Reads elements of one name with three attributes, and what stands round them. Anything it does not know ends it.
class Elements {
  public:
    explicit Elements(std::string_view text) : p_(text.data()), end_(text.data() + text.size()) {}

    /// The next tag's name after white space; empty at the end, or where something else stands.
    std::string_view tag() {
        space();
        if (p_ == end_ || *p_ != '<') return {};
        const char* from = ++p_;
        while (p_ < end_ && (std::isalpha((unsigned char)(*p_)) || *p_ == '/')) ++p_;
        return {from, size_t(p_ - from)};
    }
    /// The rest of the tag: three attributes by these names, in any order; others are passed over.
    template <class Number> bool three(const std::string_view (&names)[3], Number (&values)[3]) {
        int found = 0;
        while (true) {
            space();
            if (p_ == end_) return false;
            if (*p_ == '/' || *p_ == '>') break;
            const char* from = p_;
            while (p_ < end_ && *p_ != '=' && *p_ != '<' && *p_ != '>' && !white(*p_)) ++p_;
            const std::string_view name(from, size_t(p_ - from));
            space();
            if (p_ == end_ || *p_ != '=') return false;
            ++p_;
            space();
            if (p_ == end_ || (*p_ != '"' && *p_ != '\'')) return false;
            const char quote = *p_++;
            const char* value = p_;
            while (p_ < end_ && *p_ != quote && *p_ != '<' && *p_ != '&') ++p_;
            if (p_ == end_ || *p_ != quote) return false;
            for (int k = 0; k < 3; ++k)
                if (name == names[k]) {
                    if (!number(value, p_, values[k])) return false;
                    found |= 1 << k;
                }
            ++p_;
        }
        return found == 7 && close();
    }
    /// The end of a tag, of either kind.
    bool close() {
        space();
        if (p_ < end_ && *p_ == '/') ++p_;
        if (p_ == end_ || *p_ != '>') return false;
        ++p_;
        return true;
    }
    bool at_end() {
        space();
        return p_ == end_;
    }

  private:
    static bool white(char c) { return c == ' ' || c == '\n' || c == '\t' || c == '\r'; }
    void space() {
        while (p_ < end_ && white(*p_)) ++p_;
    }
    template <class Number> static bool number(const char* from, const char* to, Number& value) {
        while (from < to && (*from == ' ' || *from == '+')) ++from;
        const auto read = std::from_chars(from, to, value);
        if (read.ec != std::errc() || read.ptr != to) return false;
        if constexpr (std::is_floating_point_v<Number>) return std::isfinite(value);
        return true;
    }
    const char *p_, *end_;
};

bool read_vertices(std::string_view text, TriMesh& mesh) {
    static constexpr std::string_view names[3] = {"x", "y", "z"};
    Elements elements(text);
    mesh.vertices.reserve(text.size() / 40);
    for (std::string_view tag = elements.tag(); !tag.empty(); tag = elements.tag()) {
        double at[3];
        if (tag == "/vertex") { // written in two tags
            if (!elements.close()) return false;
            continue;
        }
        if (tag != "vertex" || !elements.three(names, at)) return false;
        mesh.vertices.emplace_back(float(at[0]), float(at[1]), float(at[2]));
        if (!mesh.vertices.back().allFinite()) return false;
    }
    return elements.at_end();
}

bool read_triangles(std::string_view text, TriMesh& mesh) {
    static constexpr std::string_view names[3] = {"v1", "v2", "v3"};
    Elements elements(text);
    mesh.triangles.reserve(text.size() / 36);
    for (std::string_view tag = elements.tag(); !tag.empty(); tag = elements.tag()) {
        uint32_t corners[3];
        if (tag == "/triangle") {
            if (!elements.close()) return false;
            continue;
        }
        if (tag != "triangle" || !elements.three(names, corners)) return false;
        mesh.triangles.push_back({corners[0], corners[1], corners[2]});
    }
    return elements.at_end();
}

/// What lies in an element without attributes; where it ends. Nothing else may stand before it.
std::optional<std::string_view> inside(std::string_view text, std::string_view name, size_t& at) {
    std::string open = "<", close = "</";
    open.append(name).append(">");
    close.append(name).append(">");
    at = text.find_first_not_of(" \t\r\n", at);
    if (at == std::string_view::npos || text.substr(at, open.size()) != open) return std::nullopt;
    const size_t from = at + open.size(), to = text.find(close, from);
    if (to == std::string_view::npos) return std::nullopt;
    at = to + close.size();
    return text.substr(from, to - from);
}

std::optional<TriMesh> read_mesh(std::string_view text) {
    size_t at = 0;
    const auto vertices = inside(text, "vertices", at);
    const auto triangles = vertices ? inside(text, "triangles", at) : std::nullopt;
    if (!triangles || text.find_first_not_of(" \t\r\n", at) != std::string_view::npos) return std::nullopt;
    TriMesh places, mesh;
    auto beside = std::async(std::launch::async, [&] { return read_vertices(*vertices, places); });
    const bool facets = read_triangles(*triangles, mesh);
    if (!beside.get() || !facets) return std::nullopt;
    mesh.vertices = std::move(places.vertices);
    return mesh;
}

/// From where to where the meshes of a model stand, with their tags.
std::vector<std::pair<size_t, size_t>> meshes_of(const std::string& model) {
    std::vector<std::pair<size_t, size_t>> found;
    for (size_t at = model.find(opens); at != std::string::npos;) {
        const size_t end = model.find(closes, at);
        if (end == std::string::npos) break;
        found.emplace_back(at, end + closes.size());
        at = model.find(opens, end);
    }
    return found;
}

} // namespace

std::string threemf_mesh_text(const TriMesh& mesh) {
    auto beside = std::async(std::launch::async, [&] { return vertices_text(mesh); });
    const std::string triangles = triangles_text(mesh);
    std::string text = beside.get();
    text.reserve(text.size() + triangles.size() + 32);
    text.insert(0, opens);
    text += triangles;
    text += closes;
    return text;
}

bool replace_threemf_meshes(std::string& model, const std::vector<std::string>& meshes) {
    const auto places = meshes_of(model);
    if (places.size() != meshes.size()) return false;
    std::string next;
    size_t from = 0, size = model.size();
    for (const std::string& mesh : meshes) size += mesh.size();
    next.reserve(size);
    for (size_t i = 0; i < places.size(); ++i) {
        next.append(model, from, places[i].first - from);
        next += meshes[i];
        from = places[i].second;
    }
    next.append(model, from, std::string::npos);
    model = std::move(next);
    return true;
}

std::vector<TriMesh> lift_threemf_meshes(std::string& model) {
    for (const char* other : {"<!--", "<![CDATA[", "lifted"})
        if (model.find(other) != std::string::npos) return {};
    const auto places = meshes_of(model);
    std::vector<TriMesh> meshes;
    for (const auto& [from, to] : places) {
        auto mesh =
            read_mesh(std::string_view(model).substr(from + opens.size(), to - from - opens.size() - closes.size()));
        if (!mesh) return {};
        meshes.push_back(std::move(*mesh));
    }
    std::vector<std::string> stubs;
    for (size_t i = 0; i < meshes.size(); ++i) stubs.push_back("<mesh lifted=\"" + std::to_string(i) + "\"/>");
    return replace_threemf_meshes(model, stubs) ? std::move(meshes) : std::vector<TriMesh>();
}

} // namespace lp
