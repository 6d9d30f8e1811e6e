// simplify: fewer facets within a distance of what the mesh was.
#include "base/quantity.h"
#include "cli/commands.h"
#include "formats/formats.h"
#include "mesh/simplify.h"
#include <filesystem>
#include <iostream>

namespace lp::cli {

using nlohmann::json;

int simplify_command(const SimplifyArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    if (!(args.deviation > 0 && args.deviation <= 100)) return usage("--deviation is above 0 and at most 100 mm.");
    auto read = read_mesh_file(args.in);
    if (!read) return refuse(args.in, read.error(), 3);
    Task task = terminal_task();
    auto fewer = simplify_mesh(read->mesh, {.deviation_mm = args.deviation}, task);
    if (!fewer) return refuse(args.in, fewer.error(), 1);
    if (auto failed = write_mesh_file(args.out, fewer->mesh, std::filesystem::path(args.out).stem().string()))
        return refuse(args.out, *failed, 1);
    const Inspection inspection = inspect(fewer->mesh, {}, task);
    if (!common.json) {
        print_inspection(args.out, inspection);
        std::cout << "  " << fewer->mesh.triangles.size() << " of " << read->mesh.triangles.size() << " facets, within "
                  << format_fixed(fewer->largest_deviation_mm, 4) << " mm, measured from both sides\n";
        return 0;
    }
    json result = inspection_json(args.out, written_format(args.out)->id, inspection,
                                  count_islands(inspection, {}, task), gap_between_shells(inspection.soundness, task));
    result["largest_deviation_mm"] = fewer->largest_deviation_mm;
    print_json(result);
    return 0;
}

} // namespace lp::cli
