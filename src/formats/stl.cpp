#include "formats/stl.h"
#include "formats/formats.h"
#include <bit>
#include <charconv>
#include <cmath>
#include <cstring>

namespace lp {
namespace {

static_assert(std::endian::native == std::endian::little, "the binary layout is little-endian");
constexpr size_t header_bytes = 84, facet_bytes = 50;

Problem refuse(const std::string& sentence, const std::string& advice) {
    return {ProblemCode::File, sentence, advice};
}

Expected<TriMesh> check_finite(TriMesh mesh) {
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        bool finite = true;
        for (int k = 0; k < 3; ++k) finite = finite && mesh.corner(i, k).allFinite();
        if (finite) return mesh;
    }
    return pass_on(
        refuse("Every facet of it has a corner that is no number.", "Export it again from where it was drawn."));
}

Expected<TriMesh> read_binary(const std::string& bytes, uint32_t count) {
    TriMesh mesh;
    mesh.vertices.resize(size_t(count) * 3);
    mesh.triangles.resize(count);
    const char* at = bytes.data() + header_bytes;
    for (uint32_t i = 0; i < count; ++i, at += facet_bytes) {
        float v[9];
        std::memcpy(v, at + 12, sizeof v);
        for (int k = 0; k < 3; ++k)
            mesh.vertices[3 * size_t(i) + k] = {double(v[3 * k]), double(v[3 * k + 1]), double(v[3 * k + 2])};
        mesh.triangles[i] = {3 * i, 3 * i + 1, 3 * i + 2};
    }
    return check_finite(std::move(mesh));
}

/// Words of an ASCII file, one after the other, without copies.
class Words {
  public:
    explicit Words(std::string_view text) : text_(text) {}
    std::string_view next() {
        size_t start = text_.find_first_not_of(" \t\r\n\v\f", at_);
        if (start == std::string_view::npos) {
            at_ = text_.size();
            return {};
        }
        at_ = text_.find_first_of(" \t\r\n\v\f", start);
        if (at_ == std::string_view::npos) at_ = text_.size();
        return text_.substr(start, at_ - start);
    }
    void skip_line() {
        at_ = text_.find('\n', at_);
        if (at_ == std::string_view::npos) at_ = text_.size();
    }
    size_t line() const { return size_t(std::count(text_.begin(), text_.begin() + long(at_), '\n')) + 1; }

  private:
    std::string_view text_;
    size_t at_ = 0;
};

bool is(std::string_view word, const char* wanted) {
    size_t n = std::strlen(wanted);
    if (word.size() != n) return false;
    for (size_t i = 0; i < n; ++i)
        if (std::tolower(static_cast<unsigned char>(word[i])) != wanted[i]) return false;
    return true;
}

bool number(std::string_view word, double& value) {
    if (!word.empty() && word[0] == '+') word.remove_prefix(1);
    auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), value);
    if (error == std::errc::result_out_of_range) {
        value = HUGE_VAL; // counted as non-finite, like an overflow in the binary form
        return true;
    }
    return error == std::errc() && end == word.data() + word.size();
}

/// `unended`: all facets are whole, only the last line is missing.
Expected<TriMesh> read_ascii(const std::string& bytes, bool& unended) {
    Words words(bytes);
    TriMesh mesh;
    auto wrong = [&](const std::string& what) {
        return pass_on(refuse("Line " + std::to_string(words.line()) + ": " + what + ".",
                              "The file may be cut off; export it again."));
    };
    words.next(); // "solid"
    words.skip_line();
    bool ended = false;
    for (std::string_view word = words.next(); !word.empty(); word = words.next()) {
        if (is(word, "endsolid")) {
            words.skip_line();
            ended = true;
            continue;
        }
        if (is(word, "solid")) {
            words.skip_line();
            ended = false;
            continue;
        }
        if (!is(word, "facet"))
            return wrong(std::string("\"").append(word.substr(0, 20)).append("\" where a facet should begin"));
        ended = false;
        if (!is(words.next(), "normal")) return wrong("a facet without its normal");
        double ignored;
        for (int k = 0; k < 3; ++k)
            if (!number(words.next(), ignored)) return wrong("a normal that is no number");
        if (!is(words.next(), "outer") || !is(words.next(), "loop")) return wrong("a facet without its loop");
        auto first = uint32_t(mesh.vertices.size());
        for (int k = 0; k < 3; ++k) {
            if (!is(words.next(), "vertex")) return wrong("a facet with fewer than three corners");
            Vec3 v;
            for (int c = 0; c < 3; ++c)
                if (!number(words.next(), v[c])) return wrong("a corner that is no number");
            mesh.vertices.push_back(v);
        }
        if (!is(words.next(), "endloop")) return wrong("a facet with more than three corners, or cut off");
        if (!is(words.next(), "endfacet")) return wrong("a facet that does not end");
        mesh.triangles.push_back({first, first + 1, first + 2});
    }
    if (mesh.triangles.empty())
        return pass_on(refuse("It holds no facets.", "Export it again from where it was drawn."));
    unended = !ended;
    return check_finite(std::move(mesh));
}

} // namespace

namespace {

Expected<TriMesh> read_stl(const std::string& bytes, bool& unended) {
    if (bytes.empty()) return pass_on(refuse("The file is empty.", "Export it again."));
    uint32_t count = 0;
    if (bytes.size() >= header_bytes) std::memcpy(&count, bytes.data() + 80, 4);
    if (bytes.size() >= header_bytes && bytes.size() == header_bytes + facet_bytes * uint64_t(count)) {
        if (count == 0) return pass_on(refuse("It holds no facets.", "Export it again from where it was drawn."));
        return read_binary(bytes, count);
    }
    size_t start = bytes.find_first_not_of(" \t\r\n");
    bool solid = start != std::string::npos && bytes.size() >= start + 5 &&
                 is(std::string_view(bytes).substr(start, 5), "solid");
    bool text = std::memchr(bytes.data(), 0, std::min<size_t>(bytes.size(), 4096)) == nullptr;
    if (solid && text) return read_ascii(bytes, unended);
    if (bytes.size() < header_bytes || text)
        return pass_on(
            refuse("This is no STL file: " + std::string(text ? "it is some other text." : "it is too short."),
                   "Choose another file."));
    uint64_t room = (bytes.size() - header_bytes) / facet_bytes;
    return pass_on(refuse("It says it holds " + std::to_string(count) + " facets, and its length of " +
                              std::to_string(bytes.size()) + " bytes fits " + std::to_string(room) + ".",
                          "It is cut off or damaged; copy or export it again."));
}

} // namespace

Expected<TriMesh> read_stl(const std::string& bytes) {
    bool unended = false;
    return read_stl(bytes, unended);
}

std::string write_stl_binary(const TriMesh& mesh) {
    std::string bytes(header_bytes + facet_bytes * mesh.triangles.size(), '\0');
    const char title[] = "binary STL, millimetres, by Loose Peg";
    std::memcpy(bytes.data(), title, sizeof title - 1);
    auto count = uint32_t(mesh.triangles.size());
    std::memcpy(bytes.data() + 80, &count, 4);
    char* at = bytes.data() + header_bytes;
    for (size_t i = 0; i < mesh.triangles.size(); ++i, at += facet_bytes) {
        float v[12];
        Vec3 n = mesh.area_vector(i);
        if (n.norm() > 0) n.normalize();
        for (int k = 0; k < 3; ++k) v[k] = float(n[k]);
        for (int c = 0; c < 3; ++c)
            for (int k = 0; k < 3; ++k) v[3 + 3 * c + k] = float(mesh.corner(i, c)[k]);
        std::memcpy(at, v, sizeof v);
    }
    return bytes;
}

std::string write_stl_ascii(const TriMesh& mesh, const std::string& name) {
    std::string out = "solid " + name + "\n";
    char line[160];
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        Vec3 n = mesh.area_vector(i);
        if (n.norm() > 0) n.normalize();
        std::snprintf(line, sizeof line, "facet normal %.9g %.9g %.9g\nouter loop\n", n.x(), n.y(), n.z());
        out += line;
        for (int k = 0; k < 3; ++k) {
            const Vec3& v = mesh.corner(i, k);
            std::snprintf(line, sizeof line, "vertex %.9g %.9g %.9g\n", v.x(), v.y(), v.z());
            out += line;
        }
        out += "endloop\nendfacet\n";
    }
    return out + "endsolid " + name + "\n";
}

namespace {

bool looks_like_stl(std::string_view bytes) {
    if (bytes.size() >= header_bytes) {
        uint32_t count = 0;
        std::memcpy(&count, bytes.data() + header_bytes - sizeof count, sizeof count);
        if (bytes.size() == header_bytes + facet_bytes * uint64_t(count)) return true;
    }
    size_t start = bytes.find_first_not_of(" \t\r\n");
    return start != std::string_view::npos && bytes.compare(start, 5, "solid") == 0;
}

Expected<std::vector<FileObject>> read(const std::string& bytes) {
    bool unended = false;
    auto mesh = read_stl(bytes, unended);
    if (!mesh) return pass_on(mesh);
    std::vector<FileObject> objects(1);
    objects[0].mesh = std::move(*mesh);
    if (unended)
        objects[0].notes.emplace_back("The file ends without endsolid: it may be cut off after a whole facet.");
    return objects;
}

Expected<std::string> write(const std::vector<FileObject>& objects, const std::string&, const FileExtras&) {
    if (objects.size() == 1) return write_stl_binary(objects[0].triangles());
    TriMesh all;
    for (const FileObject& object : objects) append(all, object.triangles());
    return write_stl_binary(all);
}

} // namespace

FileFormat stl_format() {
    FileFormat format{.id = "stl", .title = "STL", .endings = {"stl"}};
    format.single_precision = true;
    format.chosen_at_first = true;
    format.good_for = "one file a part";
    format.looks_like = looks_like_stl;
    format.read = read;
    format.write = write;
    return format;
}

} // namespace lp
