// PLY (Turk, The PLY Polygon File Format, 1994): text and both byte orders, polygons, colours. Millimetres are meant.
#include "base/text.h"
#include "formats/formats.h"
#include "mesh/flat_triangulation.h"
#include <bit>
#include <charconv>
#include <cmath>
#include <cstring>

namespace lp {
namespace {

static_assert(std::endian::native == std::endian::little, "values are turned round for the other order");

enum class Type { Int8, UInt8, Int16, UInt16, Int32, UInt32, Float, Double };
size_t size_of(Type type) {
    static constexpr size_t sizes[] = {1, 1, 2, 2, 4, 4, 4, 8};
    return sizes[size_t(type)];
}
std::optional<Type> type_called(std::string_view name) {
    static constexpr std::pair<const char*, Type> names[] = {
        {"char", Type::Int8},   {"int8", Type::Int8},     {"uchar", Type::UInt8},   {"uint8", Type::UInt8},
        {"short", Type::Int16}, {"int16", Type::Int16},   {"ushort", Type::UInt16}, {"uint16", Type::UInt16},
        {"int", Type::Int32},   {"int32", Type::Int32},   {"uint", Type::UInt32},   {"uint32", Type::UInt32},
        {"float", Type::Float}, {"float32", Type::Float}, {"double", Type::Double}, {"float64", Type::Double}};
    for (const auto& [word, type] : names)
        if (name == word) return type;
    return std::nullopt;
}

struct Property {
    std::string name;
    Type type = Type::Float;
    std::optional<Type> count = {}; ///< of a list
};
struct PlyElement {
    std::string name;
    uint64_t count = 0;
    std::vector<Property> properties;
};

struct Failed {
    std::string what;
};

/// Values one after the other, in any of the three codings.
class Values {
  public:
    enum class Coding { Text, Little, Big };
    Values(std::string_view bytes, Coding coding) : bytes_(bytes), coding_(coding) {}
    size_t left() const { return bytes_.size() - at_; }

    double next(Type type) {
        if (coding_ == Coding::Text) return next_word();
        const size_t n = size_of(type);
        if (left() < n) throw Failed{"it is cut off"};
        char raw[8];
        std::memcpy(raw, bytes_.data() + at_, n);
        at_ += n;
        if (coding_ == Coding::Big) std::reverse(raw, raw + n);
        switch (type) {
        case Type::Int8:
            return as<int8_t>(raw);
        case Type::UInt8:
            return as<uint8_t>(raw);
        case Type::Int16:
            return as<int16_t>(raw);
        case Type::UInt16:
            return as<uint16_t>(raw);
        case Type::Int32:
            return as<int32_t>(raw);
        case Type::UInt32:
            return as<uint32_t>(raw);
        case Type::Float:
            return double(as<float>(raw));
        case Type::Double:
            return as<double>(raw);
        }
        return 0;
    }

  private:
    template <class T> static T as(const char* raw) {
        T value;
        std::memcpy(&value, raw, sizeof value);
        return value;
    }
    double next_word() {
        const size_t start = bytes_.find_first_not_of(" \t\r\n", at_);
        if (start == std::string_view::npos) throw Failed{"it is cut off"};
        at_ = std::min(bytes_.find_first_of(" \t\r\n", start), bytes_.size());
        std::string_view word = bytes_.substr(start, at_ - start);
        if (word[0] == '+') word.remove_prefix(1);
        double value = 0;
        const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), value);
        if (error == std::errc::result_out_of_range) return HUGE_VAL;
        if (error != std::errc() || end != word.data() + word.size())
            throw Failed{quoted_start(std::string(word)) + " is no number"};
        return value;
    }
    std::string_view bytes_;
    Coding coding_;
    size_t at_ = 0;
};

class PlyReader {
  public:
    explicit PlyReader(std::string_view bytes) : bytes_(bytes) {}

    FileObject run() {
        read_header();
        Values values(bytes_.substr(at_), coding_);
        FileObject object;
        for (const PlyElement& element : elements_) {
            // Lying counts are found out before memory is taken for them.
            if (!element.properties.empty() && element.count > values.left()) throw Failed{"it is cut off"};
            if (element.name == "vertex")
                read_vertices(element, values, object);
            else if (element.name == "face")
                read_faces(element, values, object);
            else
                skip(element, values, object);
        }
        if (object.mesh.triangles.empty()) throw Failed{"it holds no faces"};
        if (crossing_)
            object.notes.push_back(
                counted(crossing_, "face crosses itself and was", "faces cross themselves and were") +
                " cut up from the first corner.");
        return object;
    }

  private:
    std::vector<std::string_view> next_line() {
        const size_t end = bytes_.find('\n', at_);
        if (end == std::string_view::npos || end - at_ > 4096) throw Failed{"its head does not end"};
        const std::string_view line = bytes_.substr(at_, end - at_);
        at_ = end + 1;
        std::vector<std::string_view> words;
        for (size_t i = 0; i < line.size();) {
            const size_t start = line.find_first_not_of(" \t\r", i);
            if (start == std::string_view::npos) break;
            i = std::min(line.find_first_of(" \t\r", start), line.size());
            words.push_back(line.substr(start, i - start));
        }
        return words;
    }

    void read_header() {
        next_line(); // "ply"
        bool said = false;
        for (auto words = next_line(); words.empty() || words[0] != "end_header"; words = next_line()) {
            if (words.empty() || words[0] == "comment" || words[0] == "obj_info") continue;
            if (words[0] == "format" && words.size() > 1) {
                said = true;
                coding_ = words[1] == "ascii"                  ? Values::Coding::Text
                          : words[1] == "binary_little_endian" ? Values::Coding::Little
                          : words[1] == "binary_big_endian"    ? Values::Coding::Big
                                                               : throw Failed{"its coding is not known"};
            } else if (words[0] == "element" && words.size() > 2) {
                PlyElement element{std::string(words[1]), 0, {}};
                const auto [end, error] =
                    std::from_chars(words[2].data(), words[2].data() + words[2].size(), element.count);
                if (error != std::errc() || end != words[2].data() + words[2].size())
                    throw Failed{"its head has a count that is no number"};
                elements_.push_back(std::move(element));
            } else if (words[0] == "property" && words.size() > 2 && !elements_.empty()) {
                read_property(words);
            } else {
                throw Failed{"its head has a line that is not understood"};
            }
            if (elements_.size() > 1000 || (!elements_.empty() && elements_.back().properties.size() > 1000))
                throw Failed{"its head is too long"};
        }
        if (!said) throw Failed{"it does not say how it is coded"};
    }
    void read_property(const std::vector<std::string_view>& words) {
        const bool list = words[1] == "list";
        if (list && words.size() < 5) throw Failed{"its head has a list without a type"};
        const auto type = type_called(words[list ? 3 : 1]);
        const auto count = list ? type_called(words[2]) : std::nullopt;
        if (!type || (list && !count)) throw Failed{"its head has a type that is not known"};
        elements_.back().properties.push_back({std::string(words[list ? 4 : 2]), *type, count});
    }

    void read_vertices(const PlyElement& element, Values& values, FileObject& object) {
        int place[3] = {-1, -1, -1}, colour[3] = {-1, -1, -1};
        for (int i = 0; i < int(element.properties.size()); ++i) {
            const std::string& name = element.properties[size_t(i)].name;
            for (int k = 0; k < 3; ++k) {
                if (name == std::string(1, "xyz"[k])) place[k] = i;
                static constexpr const char* colours[] = {"red", "green", "blue"};
                if (name == colours[k] || name == std::string("diffuse_") + colours[k]) colour[k] = i;
            }
        }
        if (place[0] < 0 || place[1] < 0 || place[2] < 0) throw Failed{"its vertices have no x, y and z"};
        Vec3 sum = Vec3::Zero();
        std::vector<double> row(element.properties.size());
        for (uint64_t i = 0; i < element.count; ++i) {
            for (size_t k = 0; k < row.size(); ++k) row[k] = value_of(element.properties[k], values);
            object.mesh.vertices.emplace_back(row[size_t(place[0])], row[size_t(place[1])], row[size_t(place[2])]);
            if (colour[0] >= 0 && colour[1] >= 0 && colour[2] >= 0)
                for (int k = 0; k < 3; ++k) sum[k] += row[size_t(colour[k])];
        }
        if (colour[0] >= 0 && colour[1] >= 0 && colour[2] >= 0 && element.count > 0) {
            const bool bytes = element.properties[size_t(colour[0])].type == Type::UInt8;
            object.colour = 0; // of the whole: a part has one
            for (int k = 0; k < 3; ++k)
                object.colour = object.colour << 8 |
                                uint32_t(std::clamp(sum[k] / double(element.count) * (bytes ? 1 : 255), 0.0, 255.0));
        }
    }
    /// Of a list only how long it is.
    static double value_of(const Property& property, Values& values) {
        if (!property.count) return values.next(property.type);
        const uint64_t n = length_of(property, values);
        for (uint64_t k = 0; k < n; ++k) values.next(property.type);
        return double(n);
    }
    static uint64_t length_of(const Property& property, Values& values) {
        const double n = values.next(*property.count);
        if (!(n >= 0) || n > double(values.left())) throw Failed{"it has a list longer than the file"};
        return uint64_t(n);
    }

    void read_faces(const PlyElement& element, Values& values, FileObject& object) {
        const size_t vertices = object.mesh.vertices.size();
        std::vector<uint32_t> corners;
        std::vector<Vec3> outline;
        for (uint64_t i = 0; i < element.count; ++i)
            for (const Property& property : element.properties) {
                if (!property.count || (property.name != "vertex_indices" && property.name != "vertex_index")) {
                    value_of(property, values);
                    continue;
                }
                const uint64_t n = length_of(property, values);
                corners.clear();
                outline.clear();
                for (uint64_t k = 0; k < n; ++k) {
                    const double v = values.next(property.type);
                    if (!(v >= 0) || v >= double(vertices)) throw Failed{"a face has a corner that is not there"};
                    corners.push_back(uint32_t(v));
                    outline.push_back(object.mesh.vertices[corners.back()]);
                }
                const FilledPolygon filled = filled_polygon(outline);
                crossing_ += filled.crosses_itself;
                for (const Triangle& t : filled.triangles)
                    object.mesh.triangles.push_back({corners[t[0]], corners[t[1]], corners[t[2]]});
            }
    }
    static void skip(const PlyElement& element, Values& values, FileObject& object) {
        for (uint64_t i = 0; i < element.count && !element.properties.empty(); ++i)
            for (const Property& property : element.properties) value_of(property, values);
        if (element.count)
            object.notes.push_back(counted(element.count, "entry of", "entries of") + " " + quoted_start(element.name) +
                                   " were left out.");
    }

    std::string_view bytes_;
    size_t at_ = 0;
    Values::Coding coding_ = Values::Coding::Text;
    std::vector<PlyElement> elements_;
    size_t crossing_ = 0;
};

Expected<std::vector<FileObject>> read(const std::string& bytes) {
    if (bytes.empty()) return problem(ProblemCode::File, "The file is empty.", "Export it again.");
    try {
        return std::vector<FileObject>{PlyReader(bytes).run()};
    } catch (const Failed& failed) {
        return problem(ProblemCode::File, "The PLY file cannot be read: " + failed.what + ".",
                       "It may be cut off or damaged; export it again.");
    }
}

template <class T> void put(std::string& bytes, T value) {
    bytes.append(reinterpret_cast<const char*>(&value), sizeof value);
}

void put_colour(std::string& bytes, uint32_t colour) {
    for (int shift : {16, 8, 0}) put(bytes, uint8_t(colour >> shift));
}

/// Little-endian, a colour a face: several objects keep theirs. Where corners have colours, a colour a corner.
Expected<std::string> write(const std::vector<FileObject>& objects, const std::string&, const FileExtras&) {
    size_t vertices = 0, faces = 0;
    bool by_corner = false;
    for (const FileObject& object : objects) {
        vertices += object.triangles().vertices.size();
        faces += object.triangles().triangles.size();
        by_corner = by_corner || !object.vertex_colours.empty();
    }
    const std::string colours = "\nproperty uchar red\nproperty uchar green\nproperty uchar blue";
    std::string bytes = "ply\nformat binary_little_endian 1.0\ncomment Loose Peg, millimetres\nelement vertex " +
                        std::to_string(vertices) + "\nproperty double x\nproperty double y\nproperty double z" +
                        (by_corner ? colours : "") + "\nelement face " + std::to_string(faces) +
                        "\nproperty list uchar int vertex_indices" + (by_corner ? "" : colours) + "\nend_header\n";
    for (const FileObject& object : objects)
        for (size_t i = 0; i < object.triangles().vertices.size(); ++i) {
            for (int k = 0; k < 3; ++k) put(bytes, object.triangles().vertices[i][k]);
            if (by_corner) put_colour(bytes, object.vertex_colours.empty() ? object.colour : object.vertex_colours[i]);
        }
    int32_t base = 0;
    for (const FileObject& object : objects) {
        for (const Triangle& t : object.triangles().triangles) {
            put(bytes, uint8_t(3));
            for (uint32_t v : t) put(bytes, int32_t(v) + base);
            if (!by_corner) put_colour(bytes, object.colour);
        }
        base += int32_t(object.triangles().vertices.size());
    }
    return bytes;
}

bool looks_like_ply(std::string_view bytes) {
    return bytes.substr(0, 4) == "ply\n" || bytes.substr(0, 5) == "ply\r\n";
}

} // namespace

FileFormat ply_format() {
    FileFormat format{.id = "ply", .title = "PLY", .endings = {"ply"}};
    format.shares_corners = true;
    format.good_for = "one file a part, with its colour";
    format.looks_like = looks_like_ply;
    format.read = read;
    format.write = write;
    return format;
}

} // namespace lp
