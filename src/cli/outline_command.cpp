#include "base/quantity.h"
#include "cli/commands.h"
#include "formats/formats.h"
#include "outline/outline_shape.h"

#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>

namespace lp::cli {

int outline_command(const OutlineArgs& args, const Common& common) {
    auto bytes = read_file(args.file);
    if (!bytes) return refuse(args.file, bytes.error(), 3);
    auto paths = read_flat(args.file, *bytes);
    if (!paths) return refuse(args.file, paths.error(), 3);
    FlatPaths as_filed = *paths; // reported in the file's own frame
    as_filed.y_down = false;
    Drawing drawing;
    DrawingId id = drawing.add(ElementKind::Import, {origin_id});
    drawing.element(id)->texts = {{"file", args.file}, {"fill", args.fill}};
    OutlineInputs inputs;
    inputs.import_paths = [&](const std::string&) -> Expected<FlatPaths> { return as_filed; };
    inputs.task = terminal_task();
    auto outline = make_outline(drawing, inputs);
    if (!outline) return refuse(args.file, outline.error(), 1);
    size_t closed = 0, open = 0, regions = 0;
    Box2 box;
    for (const FlatPath& path : as_filed.paths)
        for (size_t k = 0; k < path.contours.size(); ++k) {
            (path.closed[k] ? closed : open) += 1;
            for (const Curve& c : path.contours[k]) box.extend(c.tight_box());
        }
    double area = 0;
    std::vector<size_t> filled;
    for (size_t i = 0; i < outline->filled.size(); ++i)
        if (outline->filled[i]) area += outline->arrangement.regions[i].area_mm2, filled.push_back(i);
    auto merged = merged_regions(outline->arrangement, filled);
    if (!merged) return refuse(args.file, merged.error(), 1);
    regions = merged->size();
    nlohmann::json findings = nlohmann::json::array();
    auto finding = [&](const std::string& kind, size_t count, std::optional<Vec2> where, const std::string& says) {
        nlohmann::json at = nullptr;
        if (where) at = {number_json(where->x()), number_json(where->y())};
        findings.push_back({{"kind", kind}, {"count", count}, {"where", at}, {"says", says}});
    };
    for (const FlatFinding& f : as_filed.findings) finding(f.kind, f.count, f.where, f.says);
    size_t small = 0;
    std::optional<Vec2> first;
    for (const OutlineGap& gap : outline->arrangement.gaps)
        if (gap.closed && gap.size_mm > 1e-6 && ++small == 1) first = gap.at;
    if (small) finding("gap", small, first, std::to_string(small) + " gaps under 0.01 mm are closed.");
    if (!outline->arrangement.crossings.empty())
        finding("crossing", outline->arrangement.crossings.size(), outline->arrangement.crossings.front(),
                "Curves cross: the regions are the pieces between them.");
    auto corner = [&](const Vec2& p) -> nlohmann::json {
        if (box.isEmpty()) return nullptr;
        return {number_json(p.x()), number_json(p.y())};
    };
    if (common.json) {
        print_json({{"file", args.file},
                    {"unit", as_filed.unit},
                    {"area_mm2", number_json(area)},
                    {"bbox_min", corner(box.min())},
                    {"bbox_max", corner(box.max())},
                    {"closed_contours", closed},
                    {"open_paths", open},
                    {"regions", regions},
                    {"findings", findings}});
        return 0;
    }
    std::cout << std::filesystem::path(args.file).filename().string() << ": " << as_filed.format << " in "
              << as_filed.unit << "\n";
    if (!box.isEmpty())
        std::cout << "  size      " << format_number(box.sizes().x()) << " x " << format_number(box.sizes().y())
                  << " mm\n";
    std::cout << "  area      " << format_number(area) << " mm2 in " << regions
              << (regions == 1 ? " region\n" : " regions\n") << "  contours  " << closed << " closed, " << open
              << " open\n";
    for (const auto& f : findings) std::cout << "  note      " << f["says"].get<std::string>() << "\n";
    return 0;
}

} // namespace lp::cli
