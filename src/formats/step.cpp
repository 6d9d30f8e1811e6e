// STEP: exact bodies for other modelling programs, and bought things from their makers.
#include "formats/exact_objects.h"

namespace lp {
namespace {

bool looks_like_step(std::string_view bytes) {
    return bytes.substr(0, 2000).find("ISO-10303-21") != std::string_view::npos;
}

Expected<std::vector<FileObject>> read(const std::string& bytes) {
    return exact_objects(read_step_file(bytes));
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
