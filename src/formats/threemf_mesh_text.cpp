#include "formats/threemf_mesh_text.h"
#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <future>
#include <tbb/parallel_for.h>

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

/// What the elements of a mesh are called, and their three attributes.
struct ElementNames {
    std::string_view all, one, values[3];
};
constexpr ElementNames vertex_names{"vertices", "vertex", {"x", "y", "z"}};
constexpr ElementNames triangle_names{"triangles", "triangle", {"v1", "v2", "v3"}};

constexpr size_t chunk = 1 << 15; ///< elements written in one go

/// `value(i, k)`: number k of element i; the elements of a chunk.
template <class Value> std::string elements_text(const ElementNames& names, size_t count, size_t number, Value value) {
    constexpr size_t most_a_line = 80; // a float has at most 16 characters
    const size_t from = number * chunk, to = std::min(count, from + chunk);
    Text text((to - from) * most_a_line);
    for (size_t i = from; i < to; ++i) {
        text.add("<");
        text.add(names.one);
        for (int k = 0; k < 3; ++k) {
            text.add(" ");
            text.add(names.values[k]);
            text.add("=\"");
            text.number(value(i, k));
            text.add("\"");
        }
        text.add("/>\n");
    }
    return text.take();
}

size_t chunks_of(size_t count) {
    return (count + chunk - 1) / chunk;
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

/// Calls `take` with the three numbers of each element; false where it is no such list, or `take` says so.
template <class Number, class Take> bool read_elements(std::string_view text, const ElementNames& names, Take take) {
    Elements elements(text);
    for (std::string_view tag = elements.tag(); !tag.empty(); tag = elements.tag()) {
        if (tag[0] == '/' && tag.substr(1) == names.one) { // written in two tags
            if (!elements.close()) return false;
            continue;
        }
        Number values[3];
        if (tag != names.one || !elements.three(names.values, values) || !take(values)) return false;
    }
    return elements.at_end();
}

bool read_vertices(std::string_view text, std::vector<Vec3>& places) {
    places.reserve(text.size() / 40);
    return read_elements<double>(text, vertex_names, [&](const double(&at)[3]) {
        places.emplace_back(float(at[0]), float(at[1]), float(at[2]));
        return places.back().allFinite();
    });
}

bool read_triangles(std::string_view text, std::vector<Triangle>& facets) {
    facets.reserve(text.size() / 36);
    return read_elements<uint32_t>(text, triangle_names, [&](const uint32_t(&corners)[3]) {
        facets.push_back({corners[0], corners[1], corners[2]});
        return true;
    });
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
    const auto vertices = inside(text, vertex_names.all, at);
    const auto triangles = vertices ? inside(text, triangle_names.all, at) : std::nullopt;
    if (!triangles || text.find_first_not_of(" \t\r\n", at) != std::string_view::npos) return std::nullopt;
    TriMesh mesh;
    auto beside = std::async(std::launch::async, [&] { return read_vertices(*vertices, mesh.vertices); });
    const bool facets = read_triangles(*triangles, mesh.triangles);
    if (!beside.get() || !facets) return std::nullopt;
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
    const size_t points = chunks_of(mesh.vertices.size()), all = points + chunks_of(mesh.triangles.size());
    std::vector<std::string> pieces(all);
    tbb::parallel_for(size_t(0), all, [&](size_t n) {
        if (n < points)
            pieces[n] = elements_text(vertex_names, mesh.vertices.size(), n,
                                      [&](size_t i, int k) { return float(mesh.vertices[i][k]); });
        else
            pieces[n] = elements_text(triangle_names, mesh.triangles.size(), n - points,
                                      [&](size_t i, int k) { return mesh.triangles[i][size_t(k)]; });
    });
    std::string text;
    size_t size = 200;
    for (const std::string& piece : pieces) size += piece.size();
    text.reserve(size);
    auto tag = [&](std::string_view begin, std::string_view name) { text.append(begin).append(name).append(">\n"); };
    text += opens;
    tag("<", vertex_names.all);
    for (size_t n = 0; n < points; ++n) text += pieces[n];
    tag("</", vertex_names.all);
    tag("<", triangle_names.all);
    for (size_t n = points; n < all; ++n) text += pieces[n];
    tag("</", triangle_names.all);
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
