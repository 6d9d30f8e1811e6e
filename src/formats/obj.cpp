#include "formats/obj.h"
#include "base/text.h"
#include "mesh/flat_triangulation.h"
#include <charconv>
#include <map>
#include <set>
#include <unordered_map>

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

namespace {

/// Lines as they are meant: one that ends in a backslash goes on in the next.
class Lines {
  public:
    explicit Lines(std::string_view text) : text_(text) {}
    /// False at the end.
    bool next(std::string_view& line) {
        if (at_ >= text_.size()) return false;
        ++number_;
        line = piece();
        if (!goes_on(line)) return true;
        joined_.clear();
        while (goes_on(line)) {
            joined_.append(line.substr(0, line.find_last_of('\\'))).push_back(' ');
            if (at_ >= text_.size()) {
                line = {};
                break;
            }
            ++number_;
            line = piece();
        }
        joined_.append(line);
        line = joined_;
        return true;
    }
    size_t number() const { return number_; }

  private:
    std::string_view piece() {
        const size_t end = std::min(text_.find('\n', at_), text_.size());
        const std::string_view line = text_.substr(at_, end - at_);
        at_ = end + 1;
        return line;
    }
    static bool goes_on(std::string_view line) {
        const size_t last = line.find_last_not_of(" \t\r");
        return last != std::string_view::npos && line[last] == '\\';
    }
    std::string_view text_;
    std::string joined_;
    size_t at_ = 0, number_ = 0;
};

/// The rest of a line: a name may have spaces.
std::string name_in(std::string_view line, std::string_view word) {
    line.remove_prefix(size_t(word.data() + word.size() - line.data()));
    const size_t first = line.find_first_not_of(" \t\r");
    if (first == std::string_view::npos) return {};
    return std::string(line.substr(first, line.find_last_not_of(" \t\r") + 1 - first));
}

class ObjReader {
  public:
    Expected<std::vector<FileObject>> run(const std::string& bytes) {
        if (bytes.empty()) return problem(ProblemCode::File, "The file is empty.", "Export it again.");
        Lines lines(bytes);
        objects_.emplace_back();
        for (std::string_view line; lines.next(line);) {
            const auto words = words_of(line);
            if (words.empty()) continue;
            std::string wrong;
            if (words[0] == "v")
                wrong = take_vertex(words);
            else if (words[0] == "f")
                wrong = take_face(words);
            else if (words[0] == "o" || (words[0] == "g" && !by_object_))
                begin(name_in(line, words[0]), words[0] == "o");
            else if (words[0] == "curv" || words[0] == "surf")
                ++curved_;
            if (!wrong.empty())
                return problem(ProblemCode::File, "Line " + std::to_string(lines.number()) + ": " + wrong + ".",
                               "The file is damaged; export it again.");
        }
        std::erase_if(objects_, [](const FileObject& object) { return object.mesh.triangles.empty(); });
        if (objects_.empty()) return problem(ProblemCode::File, "It holds no faces.", "Choose another file.");
        for (FileObject& object : objects_) {
            object.mesh.vertices = objects_.size() == 1 ? std::move(vertices_) : own_vertices(object.mesh.triangles);
        }
        if (fanned_)
            objects_[0].notes.push_back(
                counted(fanned_, "face crosses itself and was", "faces cross themselves and were") +
                " cut up from the first corner.");
        if (curved_)
            objects_[0].notes.push_back(
                counted(curved_, "curve or curved surface was", "curves or curved surfaces were") + " left out.");
        return std::move(objects_);
    }

  private:
    std::string take_vertex(const std::vector<std::string_view>& words) {
        if (words.size() < 4) return "a vertex with fewer than three numbers";
        Vec3 v;
        for (int k = 0; k < 3; ++k)
            if (!parse(words[size_t(k) + 1], v[k])) return "a vertex that is no number";
        vertices_.push_back(v);
        return {};
    }

    std::string take_face(const std::vector<std::string_view>& words) {
        if (words.size() < 4) return "a face with fewer than three corners";
        std::vector<uint32_t> corners;
        for (size_t k = 1; k < words.size(); ++k) {
            long index = 0;
            if (!parse(words[k].substr(0, words[k].find('/')), index)) return "a face corner that is no number";
            const long count = long(vertices_.size()), found = index < 0 ? count + index : index - 1;
            if (found < 0 || found >= count)
                return "a face with a corner that is not there (" + std::to_string(index) + " of " +
                       std::to_string(count) + ")";
            corners.push_back(uint32_t(found));
        }
        std::vector<Vec3> outline;
        for (uint32_t c : corners) outline.push_back(vertices_[c]);
        const FilledPolygon filled = filled_polygon(outline);
        fanned_ += filled.crosses_itself;
        for (const Triangle& t : filled.triangles)
            objects_.back().mesh.triangles.push_back({corners[t[0]], corners[t[1]], corners[t[2]]});
        return {};
    }

    /// A name that comes again goes on with the object it had.
    void begin(const std::string& name, bool object) {
        if (object && !by_object_) {
            by_object_ = true; // groups before the first object were parts of no object
            for (size_t k = 1; k < objects_.size(); ++k) {
                auto& triangles = objects_[k].mesh.triangles;
                objects_[0].mesh.triangles.insert(objects_[0].mesh.triangles.end(), triangles.begin(), triangles.end());
            }
            objects_.resize(1);
            known_.clear();
        }
        if (const auto known = known_.find(name); known != known_.end()) {
            std::swap(objects_[known->second], objects_.back());
            known_[objects_[known->second].name] = known->second;
            known_[name] = objects_.size() - 1;
            return;
        }
        if (!objects_.back().mesh.triangles.empty()) objects_.emplace_back();
        objects_.back().name = name;
        known_[name] = objects_.size() - 1;
    }

    /// Renumbers the triangles for the vertices they use.
    std::vector<Vec3> own_vertices(std::vector<Triangle>& triangles) {
        std::unordered_map<uint32_t, uint32_t> number;
        std::vector<Vec3> own;
        for (Triangle& t : triangles)
            for (uint32_t& v : t) {
                const auto [at, fresh] = number.try_emplace(v, uint32_t(own.size()));
                if (fresh) own.push_back(vertices_[v]);
                v = at->second;
            }
        return own;
    }

    std::vector<Vec3> vertices_;
    std::vector<FileObject> objects_; ///< the last one is being read
    std::map<std::string, size_t> known_;
    bool by_object_ = false; ///< there are objects: groups are parts of them
    size_t fanned_ = 0, curved_ = 0;
};

} // namespace

Expected<std::vector<FileObject>> read_obj_objects(const std::string& bytes) {
    return ObjReader().run(bytes);
}

Expected<TriMesh> read_obj(const std::string& bytes) {
    auto objects = read_obj_objects(bytes);
    if (!objects) return pass_on(objects);
    TriMesh mesh = std::move(objects->front().mesh);
    for (size_t i = 1; i < objects->size(); ++i) append(mesh, (*objects)[i].mesh);
    return mesh;
}

std::string write_obj(const std::vector<NamedMesh>& meshes, const std::string& materials) {
    std::string out = "# Loose Peg, millimetres\n";
    if (!materials.empty()) out += "mtllib " + materials + "\n";
    char line[120];
    size_t base = 1;
    for (const NamedMesh& item : meshes) {
        out += "o " + item.name + "\n";
        if (!item.material.empty()) out += "usemtl " + item.material + "\n";
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

std::string material_called(uint32_t colour) {
    char name[20];
    std::snprintf(name, sizeof name, "colour_%06x", unsigned(colour));
    return name;
}

/// Names its materials where their file goes with it.
Expected<std::string> write(const std::vector<FileObject>& objects, const std::string&, const FileExtras& extras) {
    const bool coloured = !extras.file_stem.empty();
    std::vector<NamedMesh> meshes;
    for (const FileObject& object : objects)
        meshes.push_back({object.name, &object.triangles(), coloured ? material_called(object.colour) : ""});
    return write_obj(meshes, coloured ? extras.file_stem + ".mtl" : "");
}

/// The material library: one diffuse colour each.
std::string write_materials(const std::vector<FileObject>& objects) {
    std::string out = "# Loose Peg\n";
    std::set<uint32_t> told;
    char line[80];
    for (const FileObject& object : objects) {
        const uint32_t c = object.colour;
        if (!told.insert(c).second) continue;
        std::snprintf(line, sizeof line, "newmtl %s\nKd %.4f %.4f %.4f\n", material_called(c).c_str(),
                      (c >> 16 & 255) / 255.0, (c >> 8 & 255) / 255.0, (c & 255) / 255.0);
        out += line;
    }
    return out;
}

} // namespace

FileFormat obj_format() {
    FileFormat format{.id = "obj", .title = "OBJ", .endings = {"obj"}};
    format.shares_corners = true;
    format.tells_apart = true;
    format.good_for = "one file a part";
    format.looks_like = looks_like_obj;
    format.read = read_obj_objects;
    format.write = write;
    format.second_ending = "mtl";
    format.write_second = write_materials;
    return format;
}

} // namespace lp
