#include "formats/threemf.h"
#include "base/text.h"
#include "formats/threemf_handles.h"
#include "formats/threemf_model.h"
#include "formats/zip_package.h"
#include <functional>
#include <map>
#include <regex>
#include <set>
#include <zip.h>

namespace lp {
namespace {

Vec3 apply(const NMR::MODELTRANSFORM& m, const Vec3& v) {
    // The library hands the matrix for column vectors: three rows, translation in the fourth column.
    Vec3 r;
    for (int k = 0; k < 3; ++k)
        r[k] = m.m_fFields[k][0] * v.x() + m.m_fFields[k][1] * v.y() + m.m_fFields[k][2] * v.z() + m.m_fFields[k][3];
    return r;
}

bool mirrors(const NMR::MODELTRANSFORM& m) {
    Eigen::Matrix3d a;
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) a(r, c) = m.m_fFields[r][c];
    return a.determinant() < 0;
}

void move_mesh(TriMesh& mesh, const NMR::MODELTRANSFORM& m) {
    for (Vec3& v : mesh.vertices) v = apply(m, v);
    if (mirrors(m))
        for (Triangle& t : mesh.triangles) std::swap(t[1], t[2]);
}

double unit_mm(DWORD unit) {
    switch (unit) {
    case NMR::MODELUNIT_MICROMETER:
        return 0.001;
    case NMR::MODELUNIT_CENTIMETER:
        return 10;
    case NMR::MODELUNIT_INCH:
        return 25.4;
    case NMR::MODELUNIT_FOOT:
        return 304.8;
    case NMR::MODELUNIT_METER:
        return 1000;
    default:
        return 1;
    }
}

TriMesh mesh_of_object(NMR::PLib3MFModel* model, DWORD id, int depth) {
    if (depth > 16)
        throw Failed{Problem{ProblemCode::File, "Its components are nested more than 16 deep.", "Export it flat."}};
    TriMesh result;
    Handle<NMR::PLib3MFModelMeshObject> mesh;
    if (NMR::lib3mf_model_getmeshobjectbyid(model, id, mesh.out()) == 0 && mesh.get()) {
        DWORD vertices = 0, triangles = 0, got = 0;
        must("count vertices", NMR::lib3mf_meshobject_getvertexcount(mesh.get(), &vertices));
        must("count triangles", NMR::lib3mf_meshobject_gettrianglecount(mesh.get(), &triangles));
        std::vector<NMR::MODELMESHVERTEX> points(vertices);
        std::vector<NMR::MODELMESHTRIANGLE> corners(triangles);
        if (vertices)
            must("read vertices", NMR::lib3mf_meshobject_getvertices(mesh.get(), points.data(), vertices, &got));
        if (triangles)
            must("read triangles",
                 NMR::lib3mf_meshobject_gettriangleindices(mesh.get(), corners.data(), triangles, &got));
        for (const auto& p : points) result.vertices.push_back({p.m_fPosition[0], p.m_fPosition[1], p.m_fPosition[2]});
        for (const auto& t : corners) {
            for (DWORD i : t.m_nIndices)
                if (i >= vertices)
                    throw Failed{Problem{ProblemCode::File,
                                         "A facet has a corner that is not there.",
                                         "The file is damaged; export it again.",
                                         {},
                                         {}}};
            result.triangles.push_back({t.m_nIndices[0], t.m_nIndices[1], t.m_nIndices[2]});
        }
        return result;
    }
    Handle<NMR::PLib3MFModelComponentsObject> group;
    must("find an object", NMR::lib3mf_model_getcomponentsobjectbyid(model, id, group.out()));
    DWORD count = 0;
    must("count components", NMR::lib3mf_componentsobject_getcomponentcount(group.get(), &count));
    for (DWORD i = 0; i < count; ++i) {
        Handle<NMR::PLib3MFModelComponent> component;
        must("read a component", NMR::lib3mf_componentsobject_getcomponent(group.get(), i, component.out()));
        DWORD child = 0;
        NMR::MODELTRANSFORM move;
        must("read a component", NMR::lib3mf_component_getobjectresourceid(component.get(), &child));
        must("read a transform", NMR::lib3mf_component_gettransform(component.get(), &move));
        TriMesh part = mesh_of_object(model, child, depth + 1);
        move_mesh(part, move);
        append(result, part);
        if (result.triangles.size() > 40'000'000)
            throw Failed{Problem{ProblemCode::File, "It holds more than 40 million facets.", "Simplify it first."}};
    }
    return result;
}

/// Of the base material of all of an object; none where it has no one colour.
std::optional<uint32_t> colour_of(NMR::PLib3MFModel* model, NMR::PLib3MFModelObjectResource* object) {
    Handle<NMR::PLib3MFDefaultPropertyHandler> properties;
    NMR::eModelPropertyType type = NMR::MODELPROPERTYTYPE_NONE;
    if (NMR::lib3mf_object_createdefaultpropertyhandler(object, properties.out()) != 0 || !properties.get() ||
        NMR::lib3mf_defaultpropertyhandler_getpropertytype(properties.get(), &type) != 0 ||
        type != NMR::MODELPROPERTYTYPE_BASEMATERIALS)
        return std::nullopt;
    DWORD group = 0, index = 0;
    Handle<NMR::PLib3MFModelBaseMaterial> materials;
    BYTE red = 0, green = 0, blue = 0, alpha = 0;
    if (NMR::lib3mf_defaultpropertyhandler_getbasematerial(properties.get(), &group, &index) != 0 ||
        NMR::lib3mf_model_getbasematerialbyid(model, group, materials.out()) != 0 || !materials.get() ||
        NMR::lib3mf_basematerial_getdisplaycolor(materials.get(), index, &red, &green, &blue, &alpha) != 0)
        return std::nullopt;
    return uint32_t(red) << 16 | uint32_t(green) << 8 | blue;
}

/// Nothing where it is damaged: at its end the library holds it against its check sum.
std::optional<std::string> unpacked(zip_t* archive, zip_uint64_t entry) {
    zip_file_t* file = zip_fopen_index(archive, entry, 0);
    if (!file) return std::nullopt;
    std::string text;
    std::vector<char> block(1 << 16);
    zip_int64_t n = 0;
    while (text.size() < largest_file_bytes && (n = zip_fread(file, block.data(), block.size())) > 0)
        text.append(block.data(), size_t(n));
    zip_fclose(file);
    if (n < 0) return std::nullopt;
    return text;
}

/// Objects made of objects made of objects: a few lines can stand for billions of facets, and the library walks through
/// all of them. What they come to is counted first, each object once.
std::optional<Problem> check_components(const std::string& model) {
    if (model.find("component") == std::string::npos) return std::nullopt;
    static const std::regex tag(
        R"re(<(?:\w+:)?(object|component)\b[^>]*?\s(?:id|objectid)\s*=\s*["'](\d{1,10})["'])re");
    std::map<std::string, std::vector<std::string>> parts;
    std::string current;
    // Facets are most of such a file, and have no part in this: only these two tags are looked at.
    for (size_t at = model.find('<'); at != std::string::npos; at = model.find('<', at + 1)) {
        const std::string_view rest(model.data() + at, std::min<size_t>(300, model.size() - at));
        if (rest.find("object") == std::string_view::npos && rest.find("component") == std::string_view::npos) continue;
        const size_t end = rest.find('>');
        std::cmatch found;
        const char* last = rest.data() + (end == std::string_view::npos ? rest.size() : end + 1);
        if (!std::regex_search(rest.data(), last, found, tag, std::regex_constants::match_continuous)) continue;
        if (found[1] == "object")
            current = found[2];
        else
            parts[current].push_back(found[2]);
    }
    constexpr double most_objects = 1e6;
    std::map<std::string, std::pair<double, int>> counted; // objects in it, and how deep
    std::set<std::string> open;
    std::function<std::pair<double, int>(const std::string&)> count = [&](const std::string& id) {
        if (auto known = counted.find(id); known != counted.end()) return known->second;
        std::pair<double, int> all{1, 1};
        if (open.size() > 64 || !open.insert(id).second) return std::pair<double, int>{1e9, 1000};
        if (auto its = parts.find(id); its != parts.end())
            for (const std::string& part : its->second) {
                auto inside = count(part);
                all.first += inside.first;
                all.second = std::max(all.second, inside.second + 1);
            }
        open.erase(id);
        return counted[id] = all;
    };
    for (const auto& [id, its] : parts)
        if (auto [objects, deep] = count(id); objects > most_objects || deep > 17)
            return Problem{ProblemCode::File,
                           deep > 17 ? "Its components are nested more than 16 deep."
                                     : "Its components come to more than a million objects.",
                           "Export it flat."};
    return std::nullopt;
}

/// A part whose name leads out of the package: absolute, upwards, or on a drive.
bool climbs_out(std::string name) {
    std::replace(name.begin(), name.end(), '\\', '/');
    if (name.find(':') != std::string::npos) return true;
    for (size_t at = 0; at <= name.size();) {
        const size_t end = std::min(name.find('/', at), name.size());
        if (name.compare(at, end - at, "..") == 0) return true;
        at = end + 1;
    }
    return !name.empty() && name[0] == '/';
}

/// A package may unpack to far more than it weighs: its sizes are added up before the library sees it. `many`: the
/// model, where it is one so large or with so many objects that the library should not see it.
std::optional<Problem> check_package(const std::string& bytes, std::string& many) {
    if (bytes.empty()) return Problem{ProblemCode::File, "The file is empty.", "Export it again."};
    const ZipArchive archive = zip_archive(bytes);
    if (!archive)
        return Problem{ProblemCode::File, "This is no 3MF file, or it is cut off.", "Copy or export it again."};
    uint64_t total = 0;
    bool model = false;
    std::vector<zip_uint64_t> models;
    for (zip_int64_t i = 0, n = zip_get_num_entries(archive.get(), 0); i < n; ++i) {
        zip_stat_t stat;
        if (zip_stat_index(archive.get(), zip_uint64_t(i), 0, &stat) != 0) continue;
        total += stat.valid & ZIP_STAT_SIZE ? stat.size : 0;
        if (stat.name && climbs_out(stat.name))
            return Problem{ProblemCode::File,
                           "A part of the package, " + quoted_start(stat.name) + ", leads out of it.",
                           "This is no honest 3MF file."};
        if (stat.name && std::string_view(stat.name).ends_with(".model")) {
            model = true;
            models.push_back(zip_uint64_t(i));
        }
    }
    std::optional<Problem> nested;
    for (zip_uint64_t i : models)
        if (total <= largest_file_bytes && !nested) {
            auto whole = unpacked(archive.get(), i);
            if (!whole) return Problem{ProblemCode::File, "The 3MF file is damaged.", "Copy or export it again."};
            std::string& text = *whole;
            nested = check_components(text);
            if (models.size() == 1 &&
                (text.size() >= large_threemf_model || count_threemf_objects(text) >= many_threemf_objects))
                many = std::move(text);
        }
    if (nested) return nested;
    if (total > largest_file_bytes)
        return Problem{ProblemCode::File, "It unpacks to more than 2 GB.", "This is no honest 3MF file."};
    if (!model) return Problem{ProblemCode::File, "There is no 3D model in this package.", "Choose another file."};
    return std::nullopt;
}

std::vector<FileObject> read_all(const std::string& bytes) {
    Handle<NMR::PLib3MFModel> model;
    must("start", NMR::lib3mf_createmodel(model.out()));
    Handle<NMR::PLib3MFModelReader> reader;
    must("start reading", NMR::lib3mf_model_queryreader(model.get(), "3mf", reader.out()));
    // The library does not write to what it reads, it only forgot to say so.
    auto* data = reinterpret_cast<BYTE*>(const_cast<char*>(bytes.data()));
    must("read this file", NMR::lib3mf_reader_readfrombuffer(reader.get(), data, bytes.size()));
    DWORD unit = NMR::MODELUNIT_MILLIMETER;
    must("read the unit", NMR::lib3mf_model_getunit(model.get(), &unit));
    Handle<NMR::PLib3MFModelBuildItemIterator> items;
    must("list what is built", NMR::lib3mf_model_getbuilditems(model.get(), items.out()));
    std::vector<FileObject> result;
    BOOL more = false;
    while (NMR::lib3mf_builditemiterator_movenext(items.get(), &more) == 0 && more) {
        Handle<NMR::PLib3MFModelBuildItem> item;
        must("read a build item", NMR::lib3mf_builditemiterator_getcurrent(items.get(), item.out()));
        DWORD id = 0;
        must("read a build item", NMR::lib3mf_builditem_getobjectresourceid(item.get(), &id));
        Handle<NMR::PLib3MFModelObjectResource> object;
        must("read a build item", NMR::lib3mf_builditem_getobjectresource(item.get(), object.out()));
        FileObject out;
        char name[512] = "";
        ULONG needed = 0;
        NMR::lib3mf_object_getnameutf8(object.get(), name, sizeof name, &needed);
        out.name = name;
        char number[512] = "";
        if (NMR::lib3mf_builditem_getpartnumberutf8(item.get(), number, sizeof number, &needed) == 0)
            out.name = name_of_copy(out.name, number);
        DWORD type = NMR::MODELOBJECTTYPE_MODEL;
        NMR::lib3mf_object_gettype(object.get(), &type);
        out.support = type == NMR::MODELOBJECTTYPE_SUPPORT || type == NMR::MODELOBJECTTYPE_SOLIDSUPPORT;
        if (const auto colour = colour_of(model.get(), object.get())) out.colour = *colour;
        out.mesh = mesh_of_object(model.get(), id, 0);
        BOOL placed = false;
        NMR::lib3mf_builditem_hasobjecttransform(item.get(), &placed);
        if (placed) {
            NMR::MODELTRANSFORM move;
            must("read a transform", NMR::lib3mf_builditem_getobjecttransform(item.get(), &move));
            move_mesh(out.mesh, move);
        }
        double scale = unit_mm(unit);
        for (Vec3& v : out.mesh.vertices) v *= scale;
        result.push_back(std::move(out));
    }
    if (result.empty())
        throw Failed{Problem{ProblemCode::File, "It holds nothing that is to be built.", "Choose another file."}};
    return result;
}

} // namespace

Expected<std::vector<FileObject>> read_3mf(const std::string& bytes) {
    std::string many;
    if (auto wrong = check_package(bytes, many)) return pass_on(*wrong);
    if (!many.empty()) return read_threemf_model(std::move(many));
    try {
        return read_all(bytes);
    } catch (const Failed& failed) {
        return pass_on(failed.problem);
    }
}

FileFormat threemf_format() {
    FileFormat format{.id = "3mf", .title = "3MF", .endings = {"3mf"}};
    format.holds_many = true;
    format.tells_apart = true;
    format.shares_corners = true;
    format.single_precision = true;
    format.chosen_at_first = true;
    format.good_for = "one file, parts and supports as objects";
    format.looks_like = [](std::string_view bytes) { return bytes.substr(0, 2) == "PK"; };
    format.read = read_3mf;
    format.write = write_3mf;
    return format;
}

} // namespace lp
