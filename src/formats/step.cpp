// STEP: exact bodies for other modelling programs, and bought things from their makers.
#include "formats/formats.h"
#include "shape/step_file.h"

namespace lp {
namespace {

bool looks_like_step(std::string_view bytes) {
    return bytes.substr(0, 2000).find("ISO-10303-21") != std::string_view::npos;
}

Expected<std::vector<FileObject>> read(const std::string& bytes) {
    auto bodies = read_step_file(bytes);
    if (!bodies) return pass_on(bodies);
    std::vector<FileObject> objects;
    for (StepFileBody& one : *bodies) {
        FileObject object;
        object.name = std::move(one.name);
        object.exact = std::move(one.body);
        if (one.colour) object.colour = *one.colour;
        objects.push_back(std::move(object));
    }
    return objects;
}

Expected<std::string> write(const std::vector<FileObject>& objects, const std::string& title, const FileExtras&) {
    std::vector<StepFileBody> bodies;
    for (const FileObject& object : objects)
        bodies.push_back({object.name, object.exact ? *object.exact : Body::from_mesh(object.mesh), object.colour});
    return write_step_file(bodies, title);
}

} // namespace

FileFormat step_format() {
    FileFormat format{.id = "step", .title = "STEP", .endings = {"step", "stp"}};
    format.content = FileFormat::Content::Exact;
    format.holds_many = true;
    format.good_for = "exact bodies, as designed";
    format.looks_like = looks_like_step;
    format.read = read;
    format.write = write;
    return format;
}

} // namespace lp
