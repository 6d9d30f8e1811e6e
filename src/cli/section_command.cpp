// section: where a plane cuts a body, as DXF or SVG.
#include "base/files.h"
#include "cli/commands.h"
#include "cli/made_project.h"
#include "formats/formats.h"
#include "formats/write_flat.h"
#include "handoff/flat_outline.h"
#include <iostream>

namespace lp::cli {

int section_command(const SectionArgs& args, const Common& common) {
    const std::string ending = ending_of(args.out);
    if (ending != "dxf" && ending != "svg") return usage("the output must end in .dxf or .svg.");
    Eigen::Vector4d numbers;
    if (!parse_numbers(args.plane, ',', numbers) || !numbers.allFinite() || numbers.head<3>().norm() < 1e-9)
        return usage("--plane takes four numbers with commas, such as 0,0,1,12.5.");
    auto read = read_mesh_file(args.in);
    if (!read) return refuse(args.in, read.error(), 3);
    const Vec3 normal = numbers.head<3>().normalized();
    auto outline = section_outline({welded(read->mesh)}, plane_seen(normal, numbers[3] * normal));
    if (!outline) return refuse(args.in, outline.error(), 1);
    if (auto failed = write_flat(args.out, outline->loops)) return refuse(args.out, *failed, 1);
    double area = 0;
    for (const auto& loop : outline->loops) area += signed_area(loop);
    if (common.json)
        print_json({{"file", args.out}, {"loops", outline->loops.size()}, {"area_mm2", area}});
    else
        std::cout << args.out << ": " << outline->loops.size() << (outline->loops.size() == 1 ? " loop\n" : " loops\n");
    return 0;
}

} // namespace lp::cli
