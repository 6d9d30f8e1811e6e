// One reader on whatever bytes come: it ends in a result or in a sentence. Built by clang with libFuzzer, once a reader
// (READER is its name); tools/fuzz runs it.
#ifdef OF_FORMATS
#include "formats/formats.h"
#include "formats/threemf_model.h"
#endif
#ifdef OF_KERNEL
#include "kernel/step_share.h"
#endif
#ifdef OF_LAYERS
#include "layers/gcode.h"
#endif
#ifdef OF_PROJECT
#include "project/archive.h"
#include "project/project_json.h"
#include <fstream>
#include <unistd.h>
#endif
#include <cstdlib>
#include <string>
#include <vector>

using namespace lp;

namespace {

/// A refusal without words helps nobody.
template <class Result> void ends_well(const Result& result) {
    if (!result && result.error().sentence.empty()) std::abort();
}

#ifdef OF_KERNEL
/// However the text is shared out: each solid is in one share, and what stays refers to nothing that does not.
void read(const std::string&, const std::string& bytes) {
    StepText step;
    if (!scan_step_text(bytes, step)) return;
    constexpr size_t of = 3;
    std::vector<size_t> at_home(step.instances.size(), 0);
    for (size_t k = 0; k < of; ++k) {
        const StepShare share = step_share(step, k, of);
        for (size_t i = 0; i < step.instances.size(); ++i) {
            at_home[i] += !share.foreign[i];
            if (share.unused[i] || share.foreign[i] || share.stands_for[i] != i) continue;
            for (size_t r = step.instances[i].refs; r < step.instances[i].refs_end; ++r)
                if (share.unused[share.stands_for[step.refs[r].at]]) std::abort();
        }
    }
    for (size_t shares : at_home)
        if (shares != 1 && shares != of) std::abort();
}
#endif
#ifdef OF_LAYERS
void read(const std::string&, const std::string& bytes) {
    const auto plan = read_gcode(bytes);
    ends_well(plan);
    for (const PlanMove& move : plan ? plan->moves : std::vector<PlanMove>())
        if (!move.to.allFinite()) std::abort();
}
#endif
#ifdef OF_PROJECT
void read(const std::string& reader, const std::string& bytes) {
    if (reader == "project") return ends_well(project_from_text(bytes));
    static const auto file =
        std::filesystem::temp_directory_path() / ("fuzz-" + std::to_string(getpid()) + ".loosepeg");
    std::ofstream(file, std::ios::binary) << bytes;
    ends_well(open_project(file));
}
#endif
#ifdef OF_FORMATS
void read(const std::string& reader, const std::string& bytes) {
    const FileFormat* format = find_format(reader);
    if (!format) std::abort();
    if (format->read_flat) return ends_well(format->read_flat(bytes));
    // A model by itself: inside a package the bytes are packed, and hardly one of them would be found.
    const bool model = reader == "3mf" && bytes.starts_with('<');
    if (model) count_threemf_objects(bytes);
    auto objects = model ? read_threemf_model(bytes) : format->read(bytes);
    ends_well(objects);
    if (objects && bytes.size() < 20000)
        for (const FileObject& object : *objects) object.body();
}
#endif

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    read(READER, std::string(reinterpret_cast<const char*>(data), size));
    return 0;
}
