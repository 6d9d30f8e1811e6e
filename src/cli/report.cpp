#include "cli/commands.h"
#include <cmath>
#include <csignal>
#include <ctime>
#include <iostream>
#include <nlohmann/json.hpp>
#include <unistd.h>

namespace lp::cli {

using nlohmann::json;

namespace {
CancelToken& interrupted() {
    static CancelToken token;
    return token;
}
} // namespace

json number_json(double value) {
    return std::isfinite(value) ? json(value) : json(nullptr);
}
json point_json(const Vec3& p) {
    return {number_json(p.x()), number_json(p.y()), number_json(p.z())};
}

json inspection_json(const std::string& file, const std::string& format, const Inspection& i,
                     const std::optional<size_t>& islands, const std::optional<double>& min_gap_mm) {
    const Soundness& s = i.soundness;
    auto count_or_null = [](const std::optional<Fault>& fault) { return fault ? json(fault->count) : json(nullptr); };
    json result;
    result["file"] = file;
    result["format"] = format;
    result["unit"] = "mm";
    result["unit_guess"] = i.unit_guess.empty() ? json(nullptr) : json(i.unit_guess);
    result["triangles"] = s.triangles;
    result["vertices"] = s.vertices;
    result["volume_mm3"] = i.volume_mm3 ? number_json(*i.volume_mm3) : json(nullptr);
    result["area_mm2"] = number_json(i.area_mm2);
    result["bbox_min"] = i.box ? point_json(i.box->min()) : json(nullptr);
    result["bbox_max"] = i.box ? point_json(i.box->max()) : json(nullptr);
    result["closed"] = s.closed;
    result["shells"] = s.shells;
    result["open_edges"] = s.open_edges.count;
    result["holes"] = s.holes.count;
    result["nonmanifold_edges"] = s.nonmanifold_edges.count;
    result["nonmanifold_vertices"] = s.nonmanifold_vertices.count;
    result["flipped_faces"] = s.flipped.count;
    result["inconsistent_edges"] = s.inconsistent_edges.count;
    result["inside_out"] = s.inside_out;
    result["nonfinite_faces"] = s.nonfinite.count;
    result["degenerate_faces"] = s.degenerate.count;
    result["duplicate_faces"] = s.duplicate.count;
    result["self_intersecting_faces"] = count_or_null(s.self_intersecting);
    result["overlapping_shells"] = count_or_null(s.overlapping_shells);
    result["inner_shells"] = s.inner_shells.count;
    result["cavities"] = s.cavities.count;
    result["min_wall_mm"] = i.walls && i.walls->least_mm ? number_json(*i.walls->least_mm) : json(nullptr);
    result["thin_area_mm2"] = i.walls ? number_json(i.walls->thin_area_mm2) : json(nullptr);
    result["overhang_area_mm2"] = number_json(i.overhang_area_mm2);
    result["bridge_max_span_mm"] = i.widest_bridge_mm ? number_json(*i.widest_bridge_mm) : json(nullptr);
    result["islands"] = islands ? json(*islands) : json(nullptr);
    result["bed_contact_area_mm2"] = number_json(i.bed_contact_area_mm2);
    result["tips_over"] = i.tips_over ? json(*i.tips_over) : json(nullptr);
    result["fits_bed"] = i.fits_bed;
    result["centre_of_mass"] = i.centre_of_mass ? point_json(*i.centre_of_mass) : json(nullptr);
    result["min_gap_mm"] = min_gap_mm ? number_json(*min_gap_mm) : json(nullptr);
    result["findings"] = json::array();
    for (const Finding& f : i.findings)
        result["findings"].push_back(
            {{"kind", row_of(f.kind).id}, {"count", f.count}, {"where", point_json(f.where)}, {"says", f.says}});
    return result;
}

/// Valid UTF-8 under 500 characters without line ends and other control bytes, whatever names and files hold.
static std::string one_line(const std::string& text) {
    std::string line;
    for (size_t i = 0; i < text.size() && line.size() < 490;) {
        const unsigned char c = static_cast<unsigned char>(text[i]);
        const size_t length = c < 0x80                ? 1
                              : c >= 0xc2 && c < 0xe0 ? 2
                              : c >= 0xe0 && c < 0xf0 ? 3
                              : c >= 0xf0 && c < 0xf5 ? 4
                                                      : 0;
        bool whole = length > 0 && i + length <= text.size();
        for (size_t k = 1; k < length && whole; ++k) whole = (static_cast<unsigned char>(text[i + k]) & 0xc0) == 0x80;
        // Overlong forms and halves of pairs are no characters.
        if (whole && length == 3) {
            const unsigned char d = static_cast<unsigned char>(text[i + 1]);
            whole = !(c == 0xe0 && d < 0xa0) && !(c == 0xed && d >= 0xa0);
        }
        if (whole && length == 4) {
            const unsigned char d = static_cast<unsigned char>(text[i + 1]);
            whole = !(c == 0xf0 && d < 0x90) && !(c == 0xf4 && d >= 0x90);
        }
        if (!whole) {
            line += "?";
            ++i;
            continue;
        }
        if (length == 1 && (c < 0x20 || c == 0x7f))
            line += " ";
        else
            line.append(text, i, length);
        i += length;
    }
    return line.size() < text.size() && line.size() >= 490 ? line + "…" : line;
}

int refuse(const std::string& file, const Problem& problem, int status) {
    std::cerr << one_line("loose-peg-cli: " + file + ": " + problem.text()) << "\n";
    return status;
}

std::string today() {
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    localtime_r(&now, &local);
    char text[16];
    return std::strftime(text, sizeof text, "%Y-%m-%d", &local) ? text : "";
}

Task terminal_task() {
    Task task;
    task.cancel = interrupted();
    std::signal(SIGINT, [](int) { interrupted().cancel(); });
    if (isatty(STDERR_FILENO))
        task.progress = [](const std::string& doing, double share) {
            std::cerr << "\r" << int(share * 100) << " %  " << doing << "          \r" << std::flush;
        };
    return task;
}

void print_json(const json& value) {
    std::cout << value.dump(2, ' ', false, json::error_handler_t::replace) << "\n";
}

} // namespace lp::cli
