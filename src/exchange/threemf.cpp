#include "exchange/threemf.h"
#include "project/archive.h"
#include <Model/COM/NMR_DLLInterfaces.h>
#include <cstring>
#include <unistd.h>
#include <zip.h>

namespace lp {
namespace {

namespace fs = std::filesystem;

/// Owns one of the library's handles.
template <class T = NMR::PLib3MFBase> class Handle {
  public:
    Handle() = default;
    Handle(const Handle&) = delete;
    Handle& operator=(const Handle&) = delete;
    ~Handle() {
        if (raw_) NMR::lib3mf_release(raw_);
    }
    T** out() { return &raw_; }
    T* get() const { return raw_; }

  private:
    T* raw_ = nullptr;
};

struct Failed {
    Problem problem;
};

void must(const char* what, HRESULT code) {
    if (code != 0)
        throw Failed{Problem{ProblemCode::File,
                             std::string("The 3MF library could not ") + what + ".",
                             "The file is damaged, or holds something this version does not read.",
                             {},
                             {}}};
}

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
        throw Failed{
            Problem{ProblemCode::File, "Its components are nested more than 16 deep.", "Export it flat.", {}, {}}};
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
            throw Failed{
                Problem{ProblemCode::File, "It holds more than 40 million facets.", "Simplify it first.", {}, {}}};
    }
    return result;
}

/// A package may unpack to far more than it weighs: its sizes are added up before the library sees it.
std::optional<Problem> check_package(const fs::path& path) {
    auto bytes = read_file(path);
    if (!bytes) return bytes.error();
    if (bytes->empty()) return Problem{ProblemCode::File, "The file is empty.", "Export it again.", {}, {}};
    int code = 0;
    zip_t* archive = zip_open(path.c_str(), ZIP_RDONLY, &code);
    if (!archive)
        return Problem{ProblemCode::File, "This is no 3MF file, or it is cut off.", "Copy or export it again.", {}, {}};
    uint64_t total = 0;
    bool model = false;
    for (zip_int64_t i = 0, n = zip_get_num_entries(archive, 0); i < n; ++i) {
        zip_stat_t stat;
        if (zip_stat_index(archive, zip_uint64_t(i), 0, &stat) != 0) continue;
        total += stat.valid & ZIP_STAT_SIZE ? stat.size : 0;
        model = model || (stat.name && std::strlen(stat.name) > 6 &&
                          std::strcmp(stat.name + std::strlen(stat.name) - 6, ".model") == 0);
    }
    zip_discard(archive);
    if (total > largest_file_bytes)
        return Problem{ProblemCode::File, "It unpacks to more than 2 GB.", "This is no honest 3MF file.", {}, {}};
    if (!model)
        return Problem{ProblemCode::File, "There is no 3D model in this package.", "Choose another file.", {}, {}};
    return std::nullopt;
}

std::vector<ThreemfObject> read_all(const fs::path& path) {
    Handle<NMR::PLib3MFModel> model;
    must("start", NMR::lib3mf_createmodel(model.out()));
    Handle<NMR::PLib3MFModelReader> reader;
    must("start reading", NMR::lib3mf_model_queryreader(model.get(), "3mf", reader.out()));
    must("read this file", NMR::lib3mf_reader_readfromfileutf8(reader.get(), path.c_str()));
    DWORD unit = NMR::MODELUNIT_MILLIMETER;
    must("read the unit", NMR::lib3mf_model_getunit(model.get(), &unit));
    Handle<NMR::PLib3MFModelBuildItemIterator> items;
    must("list what is built", NMR::lib3mf_model_getbuilditems(model.get(), items.out()));
    std::vector<ThreemfObject> result;
    BOOL more = false;
    while (NMR::lib3mf_builditemiterator_movenext(items.get(), &more) == 0 && more) {
        Handle<NMR::PLib3MFModelBuildItem> item;
        must("read a build item", NMR::lib3mf_builditemiterator_getcurrent(items.get(), item.out()));
        DWORD id = 0;
        must("read a build item", NMR::lib3mf_builditem_getobjectresourceid(item.get(), &id));
        Handle<NMR::PLib3MFModelObjectResource> object;
        must("read a build item", NMR::lib3mf_builditem_getobjectresource(item.get(), object.out()));
        ThreemfObject out;
        char name[512] = "";
        ULONG needed = 0;
        NMR::lib3mf_object_getnameutf8(object.get(), name, sizeof name, &needed);
        out.name = name;
        DWORD type = NMR::MODELOBJECTTYPE_MODEL;
        NMR::lib3mf_object_gettype(object.get(), &type);
        out.support = type == NMR::MODELOBJECTTYPE_SUPPORT || type == NMR::MODELOBJECTTYPE_SOLIDSUPPORT;
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
        throw Failed{
            Problem{ProblemCode::File, "It holds nothing that is to be built.", "Choose another file.", {}, {}}};
    return result;
}

void add_object(NMR::PLib3MFModel* model, NMR::PLib3MFModelBaseMaterial* materials, DWORD group,
                const ThreemfObject& object) {
    Handle<NMR::PLib3MFModelMeshObject> mesh;
    must("add an object", NMR::lib3mf_model_addmeshobject(model, mesh.out()));
    must("name an object", NMR::lib3mf_object_setnameutf8(mesh.get(), object.name.c_str()));
    must("set an object's type", NMR::lib3mf_object_settype(mesh.get(), object.support ? NMR::MODELOBJECTTYPE_SUPPORT
                                                                                       : NMR::MODELOBJECTTYPE_MODEL));
    std::vector<NMR::MODELMESHVERTEX> points(object.mesh.vertices.size());
    for (size_t i = 0; i < points.size(); ++i)
        for (int k = 0; k < 3; ++k) points[i].m_fPosition[k] = float(object.mesh.vertices[i][k]);
    std::vector<NMR::MODELMESHTRIANGLE> corners(object.mesh.triangles.size());
    for (size_t i = 0; i < corners.size(); ++i)
        for (int k = 0; k < 3; ++k) corners[i].m_nIndices[k] = object.mesh.triangles[i][k];
    must("take an object's facets", NMR::lib3mf_meshobject_setgeometry(mesh.get(), points.data(), DWORD(points.size()),
                                                                       corners.data(), DWORD(corners.size())));
    DWORD index = 0;
    must("add a colour", NMR::lib3mf_basematerial_addmaterialutf8(materials, object.name.c_str(), 0, 0, 0, &index));
    must("set a colour",
         NMR::lib3mf_basematerial_setdisplaycolorrgba(materials, index, BYTE(object.colour >> 16),
                                                      BYTE(object.colour >> 8), BYTE(object.colour), 255));
    Handle<NMR::PLib3MFDefaultPropertyHandler> properties;
    must("colour an object", NMR::lib3mf_object_createdefaultpropertyhandler(mesh.get(), properties.out()));
    must("colour an object", NMR::lib3mf_defaultpropertyhandler_setbasematerial(properties.get(), group, index));
    Handle<NMR::PLib3MFModelBuildItem> item;
    must("place an object", NMR::lib3mf_model_addbuilditem(model, mesh.get(), nullptr, item.out()));
}

} // namespace

std::optional<Problem> write_3mf(const fs::path& path, const std::vector<ThreemfObject>& objects,
                                 const std::string& title) {
    if (objects.empty())
        return Problem{ProblemCode::Missing, "There is nothing to write.", "Make a part first.", {}, {}};
    for (const ThreemfObject& object : objects)
        if (object.mesh.triangles.size() < 4)
            return Problem{ProblemCode::Geometry,
                           object.name + " has no body to write.",
                           "Give it a solid, or leave it out.",
                           {},
                           {}};
    fs::path beside = path;
    beside += ".part" + std::to_string(getpid());
    try {
        Handle<NMR::PLib3MFModel> model;
        must("start", NMR::lib3mf_createmodel(model.out()));
        must("set the unit", NMR::lib3mf_model_setunit(model.get(), NMR::MODELUNIT_MILLIMETER));
        must("set the title", NMR::lib3mf_model_addmetadatautf8(model.get(), "Title", title.c_str()));
        must("set the application", NMR::lib3mf_model_addmetadatautf8(model.get(), "Application", "Loose Peg"));
        Handle<NMR::PLib3MFModelBaseMaterial> materials;
        must("add colours", NMR::lib3mf_model_addbasematerialgroup(model.get(), materials.out()));
        DWORD group = 0;
        must("add colours", NMR::lib3mf_resource_getresourceid(materials.get(), &group));
        for (const ThreemfObject& object : objects) add_object(model.get(), materials.get(), group, object);
        Handle<NMR::PLib3MFModelWriter> writer;
        must("start writing", NMR::lib3mf_model_querywriter(model.get(), "3mf", writer.out()));
        must("write this file", NMR::lib3mf_writer_writetofileutf8(writer.get(), beside.c_str()));
    } catch (const Failed& failed) {
        std::error_code error;
        fs::remove(beside, error);
        return failed.problem;
    }
    std::error_code error;
    fs::rename(beside, path, error);
    if (!error) return std::nullopt;
    fs::remove(beside, error);
    return Problem{ProblemCode::File,
                   "\"" + path.filename().string() + "\" could not be written.",
                   "Check the folder and the room on the disk.",
                   {},
                   {}};
}

Expected<std::vector<ThreemfObject>> read_3mf(const fs::path& path) {
    if (auto wrong = check_package(path)) return tl::make_unexpected(*wrong);
    try {
        return read_all(path);
    } catch (const Failed& failed) {
        return tl::make_unexpected(failed.problem);
    }
}

} // namespace lp
