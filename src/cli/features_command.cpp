// features: planes, cylinders, cones and spheres that a mesh's facets stand for.
#include "base/quantity.h"
#include "cli/commands.h"
#include "formats/formats.h"
#include "mesh/recognise.h"
#include "mesh/soundness.h"
#include <iostream>

namespace lp::cli {

using nlohmann::json;

static json json_of(const Feature& f) {
    const bool plane = f.kind == Feature::Kind::Plane, sphere = f.kind == Feature::Kind::Sphere;
    auto triple = [](const Vec3& v) { return json::array({v.x(), v.y(), v.z()}); };
    return {{"kind", word_of(f.kind)},
            {"axis", sphere ? json() : triple(f.axis)},
            {"at", triple(f.at)},
            {"diameter_mm", plane ? json() : json(f.diameter_mm)},
            {"half_angle_deg", f.kind == Feature::Kind::Cone ? json(f.half_angle_deg) : json()},
            {"inside", plane ? json() : json(f.inside)},
            {"area_mm2", f.area_mm2},
            {"largest_deviation_mm", f.largest_deviation_mm}};
}

int features_command(const FeaturesArgs& args, const Common& common) {
    auto read = read_mesh_file(args.file);
    if (!read) return refuse(args.file, read.error(), 3);
    Task task = terminal_task();
    const Soundness sound = check_soundness(read->mesh, {.self_intersections = false}, task);
    auto features = recognise(sound.kept, {}, task);
    if (!features) return refuse(args.file, features.error(), 1);
    if (common.json) {
        json list = json::array();
        for (const Feature& f : *features) list.push_back(json_of(f));
        print_json({{"features", list}});
        return 0;
    }
    constexpr size_t told = 40;
    std::cout << args.file << ": " << features->size() << " recognised, the largest first\n";
    for (size_t i = 0; i < features->size() && i < told; ++i) {
        const Feature& f = (*features)[i];
        std::cout << "  " << (f.inside ? "inside of a " : "") << word_of(f.kind);
        if (f.kind == Feature::Kind::Cone)
            std::cout << " of " << format_number(f.half_angle_deg, 1) << "° to its axis, up to ⌀ "
                      << format_number(f.diameter_mm, 2) << " mm";
        else if (f.kind != Feature::Kind::Plane)
            std::cout << " ⌀ " << format_number(f.diameter_mm, 3) << " mm";
        std::cout << " at " << format_number(f.at.x(), 2) << ", " << format_number(f.at.y(), 2) << ", "
                  << format_number(f.at.z(), 2) << ", " << format_number(f.area_mm2, 1) << " mm²\n";
    }
    if (features->size() > told) std::cout << "  and " << features->size() - told << " more\n";
    return 0;
}

} // namespace lp::cli
