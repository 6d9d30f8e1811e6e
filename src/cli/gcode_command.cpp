// gcode: a print plan made elsewhere, looked at layer by layer.
#include "base/files.h"
#include "base/quantity.h"
#include "cli/commands.h"
#include "layers/read_layers.h"
#include <iostream>

namespace lp::cli {

using nlohmann::json;

int gcode_command(const GcodeArgs& args, const Common& common) {
    if (!(args.overhang_limit >= 0 && args.overhang_limit <= 90))
        return usage("the overhang limit is 0 to 90 degrees.");
    auto bytes = read_file(args.file);
    if (!bytes) return refuse(args.file, bytes.error(), 3);
    Task task = terminal_task();
    auto plan = read_gcode(*bytes, task);
    if (!plan) return refuse(args.file, plan.error(), 3);
    ReadLayersOptions options;
    options.overhang_limit_deg = args.overhang_limit;
    auto read = read_layers(*plan, options, task);
    if (!read) return refuse(args.file, read.error(), read.error().code == ProblemCode::Geometry ? 3 : 1);
    if (common.json) {
        json out = layers_json(read->plan, options.material.filament_mm);
        out["time_motion_s"] = read->time_motion_s;
        out["bbox_min"] = {read->box.min().x(), read->box.min().y(), read->box.min().z()};
        out["bbox_max"] = {read->box.max().x(), read->box.max().y(), read->box.max().z()};
        out["lines"] = read->lines;
        out["file_lines"] = plan->file_lines;
        out["tools"] = plan->tools;
        for (const ReadLayers::Pause& pause : read->pauses)
            out["pauses"].push_back({{"layer", pause.layer + 1},
                                     {"layer_with_raft", pause.layer + 1},
                                     {"z_mm", pause.z_mm},
                                     {"because", "the file stops there"}});
        print_json(out);
        return 0;
    }
    const Vec3 size = read->box.sizes();
    std::cout << args.file << ": " << read->plan.layers.size() << " layers, " << read->lines << " lines, "
              << format_number(size.x(), 1) << " x " << format_number(size.y(), 1) << " x "
              << format_number(read->plan.height_mm, 2) << " mm, about " << format_duration(read->time_motion_s) << " ("
              << format_duration(read->plan.time_s) << " without acceleration), "
              << format_number(read->plan.filament_mm / 1000, 2) << " m of filament, "
              << format_number(read->plan.mass_g, 1) << " g of " << options.material.name << "\n";
    for (const Island& island : read->plan.islands)
        std::cout << "  layer " << island.layer + 1 << " (z " << format_number(island.z_mm, 2)
                  << " mm): " << format_number(island.area_mm2, 1) << " mm² lie on nothing at "
                  << format_number(island.at.x(), 1) << ", " << format_number(island.at.y(), 1) << "\n";
    for (const ReadLayers::Pause& pause : read->pauses)
        std::cout << "  stops before layer " << pause.layer + 1 << " (z " << format_number(pause.z_mm, 2) << " mm)\n";
    return 0;
}

} // namespace lp::cli
