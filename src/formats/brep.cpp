// BREP: exact bodies as text, as the geometry kernel's library writes them; millimetres are meant. Read only.
#include "formats/exact_objects.h"

namespace lp {
namespace {

bool looks_like_brep(std::string_view bytes) {
    const std::string_view head = bytes.substr(0, 200);
    return head.find("DBRep_DrawableShape") != std::string_view::npos ||
           head.find("CASCADE Topology V") != std::string_view::npos;
}

Expected<std::vector<FileObject>> read(const std::string& bytes) {
    return exact_objects(read_brep_file(bytes));
}

} // namespace

FileFormat brep_format() {
    FileFormat format{.id = "brep", .title = "BREP", .endings = {"brep", "brp"}};
    format.content = FileFormat::Content::Exact;
    format.holds_many = true;
    format.good_for = "exact bodies";
    format.looks_like = looks_like_brep;
    format.read = read;
    return format;
}

} // namespace lp
