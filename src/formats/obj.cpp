#include "formats/obj.h"
#include "formats/formats.h"
#include <charconv>

namespace lp {
namespace {

std::vector<std::string_view> words_of(std::string_view line) {
    std::vector<std::string_view> words;
    for (size_t i = 0; i < line.size();) {
        size_t start = line.find_first_not_of(" \t\r", i);
        if (start == std::string_view::npos) break;
        i = line.find_first_of(" \t\r", start);
        if (i == std::string_view::npos) i = line.size();
        words.push_back(line.substr(start, i - start));
    }
    return words;
}

template <class T> bool parse(std::string_view word, T& value) {
    if (!word.empty() && word[0] == '+') word.remove_prefix(1);
    auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), value);
    return error == std::errc() && end == word.data() + word.size();
}

} // namespace

Expected<TriMesh> read_obj(const std::string& bytes) {
    TriMesh mesh;
    size_t number = 0;
    auto wrong = [&](const std::string& what) {
        return problem(ProblemCode::File, "Line " + std::to_string(number) + ": " + what + ".",
                       "The file is damaged; export it again.");
    };
    if (bytes.empty()) return problem(ProblemCode::File, "The file is empty.", "Export it again.");
    std::string_view text(bytes);
    for (size_t at = 0; at < text.size();) {
        size_t end = std::min(text.find('\n', at), text.size());
        auto words = words_of(text.substr(at, end - at));
        at = end + 1;
        ++number;
        if (words.empty()) continue;
        if (words[0] == "v") {
            if (words.size() < 4) return wrong("a vertex with fewer than three numbers");
            Vec3 v;
            for (int k = 0; k < 3; ++k)
                if (!parse(words[size_t(k) + 1], v[k])) return wrong("a vertex that is no number");
            mesh.vertices.push_back(v);
        } else if (words[0] == "f") {
            if (words.size() < 4) return wrong("a face with fewer than three corners");
            std::vector<uint32_t> corners;
            for (size_t k = 1; k < words.size(); ++k) {
                long index = 0;
                if (!parse(words[k].substr(0, words[k].find('/')), index))
                    return wrong("a face corner that is no number");
                long count = long(mesh.vertices.size());
                long found = index < 0 ? count + index : index - 1;
                if (found < 0 || found >= count)
                    return wrong("a face with a corner that is not there (" + std::to_string(index) + " of " +
                                 std::to_string(count) + ")");
                corners.push_back(uint32_t(found));
            }
            for (size_t k = 2; k < corners.size(); ++k)
                mesh.triangles.push_back({corners[0], corners[k - 1], corners[k]});
        }
    }
    if (mesh.triangles.empty()) return problem(ProblemCode::File, "It holds no faces.", "Choose another file.");
    return mesh;
}

std::string write_obj(const std::vector<NamedMesh>& meshes) {
    std::string out = "# Loose Peg, millimetres\n";
    char line[120];
    size_t base = 1;
    for (const NamedMesh& item : meshes) {
        out += "o " + item.name + "\n";
        for (const Vec3& v : item.mesh->vertices) {
            std::snprintf(line, sizeof line, "v %.9g %.9g %.9g\n", v.x(), v.y(), v.z());
            out += line;
        }
        for (const Triangle& t : item.mesh->triangles) {
            std::snprintf(line, sizeof line, "f %zu %zu %zu\n", base + t[0], base + t[1], base + t[2]);
            out += line;
        }
        base += item.mesh->vertices.size();
    }
    return out;
}

namespace {

/// A vertex line near the beginning.
bool looks_like_obj(std::string_view bytes) {
    std::string_view head = bytes.substr(0, 20000);
    return head.substr(0, 2) == "v " || head.find("\nv ") != std::string_view::npos;
}

Expected<std::vector<FileObject>> read(const std::string& bytes) {
    auto mesh = read_obj(bytes);
    if (!mesh) return pass_on(mesh);
    std::vector<FileObject> objects(1);
    objects[0].mesh = std::move(*mesh);
    return objects;
}

Expected<std::string> write(const std::vector<FileObject>& objects, const std::string&) {
    std::vector<NamedMesh> meshes;
    for (const FileObject& object : objects) meshes.push_back({object.name, &object.triangles()});
    return write_obj(meshes);
}

} // namespace

FileFormat obj_format() {
    FileFormat format{.id = "obj", .title = "OBJ", .endings = {"obj"}};
    format.shares_corners = true;
    format.good_for = "one file a part";
    format.looks_like = looks_like_obj;
    format.read = read;
    format.write = write;
    return format;
}

} // namespace lp
