#include "hardware/measured_thread.h"
#include "base/quantity.h"
#include <algorithm>
#include <cmath>
#include <regex>

namespace lp {

std::optional<MeasuredThread> measured_thread(const std::string& text) {
    static const std::regex form(
        "\\s*(?:thread|measured|outer|outside|neck)?\\s*([0-9]+(?:\\.[0-9]+)?)\\s*(?:mm)?\\s*[,;]?\\s*([0-9]{1,3})\\s*"
        "(?:crests?|turns?|pitches)?\\s*(?:in|over)\\s*([0-9]+(?:\\.[0-9]+)?)\\s*(?:mm)?\\s*",
        std::regex::icase);
    std::smatch found;
    if (text.size() > 80 || !std::regex_match(text, found, form)) return std::nullopt;
    const double outer = std::stod(found[1]), turns = std::stod(found[2]), length = std::stod(found[3]);
    if (!(outer > 0) || !(turns > 0) || !(length > 0)) return std::nullopt;
    return MeasuredThread{outer, length / turns};
}

std::vector<NearThread> threads_near(const Hardware& tables, const MeasuredThread& measured, size_t most) {
    constexpr double worn_mm = 0.4, not_near = 0.15;
    std::vector<std::pair<double, NearThread>> all;
    for (const char* words :
         {"metric coarse thread", "metric fine thread", "unified coarse thread", "unified fine thread", "pipe thread"})
        if (const auto rows = tables.find(words))
            for (const HardwareRow& row : *rows) {
                const double *d = row.size_of("d"), *p = row.size_of("P");
                if (!d || !p) continue;
                NearThread near{row, *d - measured.outer_mm, *p - measured.pitch_mm};
                const double under =
                    near.outer_off_mm < 0 ? -near.outer_off_mm : std::max(0.0, near.outer_off_mm - worn_mm);
                const double off = std::fabs(near.pitch_off_mm) / measured.pitch_mm + under / measured.outer_mm;
                if (off < not_near) all.emplace_back(off, std::move(near));
            }
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<NearThread> nearest;
    for (auto& [off, near] : all)
        if (nearest.size() < most) nearest.push_back(std::move(near));
    return nearest;
}

std::string measured_words(const MeasuredThread& measured, const std::vector<NearThread>& near) {
    std::string words = "Pitch " + format_number(measured.pitch_mm, 3) + " mm, " +
                        format_number(measured.turns_per_inch(), 2) + " turns an inch.";
    if (near.empty()) return words + " No standard thread of the tables is near.";
    words += " Nearest:";
    for (const NearThread& n : near)
        words += std::string(&n == &near[0] ? " " : "; ") + n.row.size + " (" + n.row.standard + ", pitch " +
                 format_number(*n.row.size_of("P"), 3) + " mm, " + format_number(*n.row.size_of("d"), 2) +
                 " mm outside)";
    return words + ".";
}

} // namespace lp
