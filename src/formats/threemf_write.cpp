// Writing 3MF through lib3mf.
#include "formats/threemf.h"
#include "formats/threemf_handles.h"
#include "formats/threemf_mesh_text.h"
#include "formats/zip_package.h"
#include <cstring>

namespace lp {
namespace {

/// What the library is given in the place of every mesh, and writes: its own way takes ten seconds for two million
/// facets.
NMR::MODELMESHVERTEX stand_in_points[4] = {{{0, 0, 0}}, {{1, 0, 0}}, {{0, 1, 0}}, {{0, 0, 1}}};
NMR::MODELMESHTRIANGLE stand_in_facets[4] = {{{0, 2, 1}}, {{0, 1, 3}}, {{0, 3, 2}}, {{1, 2, 3}}};

/// Several things of one shape are one object, built in several places. What helps another, and is not printed, is no
/// part of what is built (core specification 3.2, objects of the type "other").
class ModelWriter {
  public:
    ModelWriter(const std::vector<FileObject>& objects, const std::string& title, const FileExtras& extras)
        : objects_(objects), title_(title), extras_(extras) {}

    std::string bytes() {
        must("start", NMR::lib3mf_createmodel(model_.out()));
        must("set the unit", NMR::lib3mf_model_setunit(model_.get(), NMR::MODELUNIT_MILLIMETER));
        must("add colours", NMR::lib3mf_model_addbasematerialgroup(model_.get(), materials_.out()));
        must("add colours", NMR::lib3mf_resource_getresourceid(materials_.get(), &group_));
        tell();
        written_ = std::vector<Handle<NMR::PLib3MFModelMeshObject>>(objects_.size());
        for (size_t i = 0; i < objects_.size(); ++i) add(i);
        attach();
        auto whole = with_meshes(packed());
        if (!whole) throw Failed{whole.error()};
        return std::move(*whole);
    }

  private:
    void tell() {
        must("set the title", NMR::lib3mf_model_addmetadatautf8(model_.get(), "Title", title_.c_str()));
        must("set the application", NMR::lib3mf_model_addmetadatautf8(model_.get(), "Application", "Loose Peg"));
        std::string remarks;
        for (const FileObject& object : objects_)
            if (!object.remark.empty()) remarks += (remarks.empty() ? "" : "\n") + object.remark;
        if (!remarks.empty())
            must("set the description",
                 NMR::lib3mf_model_addmetadatautf8(model_.get(), "Description", remarks.c_str()));
    }

    void add(size_t i) {
        const FileObject& object = objects_[i];
        if (!object.same_as) add_object(i);
        if (object.helper) return;
        Handle<NMR::PLib3MFModelBuildItem> item;
        NMR::MODELTRANSFORM place;
        for (int row = 0; row < 3; ++row)
            for (int column = 0; column < 4; ++column)
                place.m_fFields[row][column] = float(object.place.matrix()(row, column));
        const bool placed = !object.place.isApprox(Transform::Identity());
        const size_t shape = object.same_as.value_or(i);
        must("place an object", NMR::lib3mf_model_addbuilditem(model_.get(), written_[shape].get(),
                                                               placed ? &place : nullptr, item.out()));
        if (object.name != objects_[shape].shape_name())
            must("number an object", NMR::lib3mf_builditem_setpartnumberutf8(item.get(), object.name.c_str()));
    }

    void add_object(size_t i) {
        const FileObject& object = objects_[i];
        NMR::PLib3MFModelMeshObject** out = written_[i].out();
        must("add an object", NMR::lib3mf_model_addmeshobject(model_.get(), out));
        NMR::PLib3MFModelMeshObject* mesh = written_[i].get();
        must("name an object", NMR::lib3mf_object_setnameutf8(mesh, object.shape_name().c_str()));
        must("set an object's type", NMR::lib3mf_object_settype(mesh, object.helper    ? NMR::MODELOBJECTTYPE_OTHER
                                                                      : object.support ? NMR::MODELOBJECTTYPE_SUPPORT
                                                                                       : NMR::MODELOBJECTTYPE_MODEL));
        meshes_.push_back(threemf_mesh_text(object.triangles()));
        must("take an object's facets",
             NMR::lib3mf_meshobject_setgeometry(mesh, stand_in_points, 4, stand_in_facets, 4));
        colour(mesh, object);
    }

    void colour(NMR::PLib3MFModelMeshObject* mesh, const FileObject& object) {
        DWORD index = 0;
        must("add a colour",
             NMR::lib3mf_basematerial_addmaterialutf8(materials_.get(), object.shape_name().c_str(), 0, 0, 0, &index));
        must("set a colour",
             NMR::lib3mf_basematerial_setdisplaycolorrgba(materials_.get(), index, BYTE(object.colour >> 16),
                                                          BYTE(object.colour >> 8), BYTE(object.colour), 255));
        Handle<NMR::PLib3MFDefaultPropertyHandler> properties;
        must("colour an object", NMR::lib3mf_object_createdefaultpropertyhandler(mesh, properties.out()));
        must("colour an object", NMR::lib3mf_defaultpropertyhandler_setbasematerial(properties.get(), group_, index));
    }

    /// The picture, and the settings as a part of the package of their own: names of our own in the model itself make
    /// a file that others refuse.
    void attach() {
        if (!extras_.picture_png.empty()) {
            Handle<NMR::PLib3MFModelAttachment> picture;
            must("add the picture", NMR::lib3mf_model_getpackagethumbnailattachment(model_.get(), true, picture.out()));
            fill(picture.get(), extras_.picture_png);
        }
        if (extras_.settings_json.empty()) return;
        std::string path = settings_part, kind = settings_relationship;
        must("add the settings", NMR::lib3mf_model_addcustomcontenttypeutf8(model_.get(), "json", "application/json"));
        Handle<NMR::PLib3MFModelAttachment> settings;
        must("add the settings",
             NMR::lib3mf_model_addattachmentutf8(model_.get(), path.data(), kind.data(), settings.out()));
        fill(settings.get(), extras_.settings_json);
    }
    static void fill(NMR::PLib3MFModelAttachment* attachment, std::string bytes) {
        must("fill a part of the package",
             NMR::lib3mf_attachment_readfrombuffer(attachment, reinterpret_cast<BYTE*>(bytes.data()), bytes.size()));
    }

    std::string packed() {
        Handle<NMR::PLib3MFModelWriter> writer;
        must("start writing", NMR::lib3mf_model_querywriter(model_.get(), "3mf", writer.out()));
        Buffer buffer;
        must("write this file",
             NMR::lib3mf_writer_writetocallback(writer.get(), reinterpret_cast<void*>(write_to_buffer),
                                                reinterpret_cast<void*>(seek_in_buffer), &buffer));
        return std::move(buffer.bytes);
    }

    /// What the library writes, in memory: it seeks back to fill in sizes.
    struct Buffer {
        std::string bytes;
        size_t at = 0;
    };

    static NMR::nfUint32 write_to_buffer(NMR::nfByte* data, NMR::nfUint32 size, void* user) {
        auto& buffer = *static_cast<Buffer*>(user);
        if (buffer.at + size > buffer.bytes.size()) buffer.bytes.resize(buffer.at + size);
        std::memcpy(buffer.bytes.data() + buffer.at, data, size);
        buffer.at += size;
        return 0;
    }

    static NMR::nfUint32 seek_in_buffer(NMR::nfUint64 position, void* user) {
        static_cast<Buffer*>(user)->at = size_t(position);
        return 0;
    }

    /// The package with the objects' own triangles where the stand-ins are.
    Expected<std::string> with_meshes(const std::string& package) const {
        auto parts = unpack_own_zip(package);
        if (!parts) return pass_on(parts);
        for (auto& [name, text] : *parts)
            if (name.ends_with(".model") && !replace_threemf_meshes(text, meshes_))
                return problem(ProblemCode::File, "The 3MF file could not be put together.", "Try another format.");
        return pack_zip(*parts, true);
    }

    const std::vector<FileObject>& objects_;
    const std::string& title_;
    const FileExtras& extras_;
    Handle<NMR::PLib3MFModel> model_;
    Handle<NMR::PLib3MFModelBaseMaterial> materials_;
    DWORD group_ = 0;
    std::vector<std::string> meshes_;                          ///< as text, in the order the objects were added
    std::vector<Handle<NMR::PLib3MFModelMeshObject>> written_; ///< by object; none where it is one before
};

} // namespace

Expected<std::string> write_3mf(const std::vector<FileObject>& objects, const std::string& title,
                                const FileExtras& extras) {
    if (objects.empty()) return problem(ProblemCode::Missing, "There is nothing to write.", "Make a part first.");
    for (const FileObject& object : objects)
        if (!object.same_as && object.triangles().triangles.size() < 4)
            return problem(ProblemCode::Geometry, object.name + " has no body to write.",
                           "Give it a solid, or leave it out.");
    try {
        return ModelWriter(objects, title, extras).bytes();
    } catch (const Failed& failed) {
        return pass_on(failed.problem);
    }
}

} // namespace lp
