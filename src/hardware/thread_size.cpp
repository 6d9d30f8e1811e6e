#include "hardware/thread_size.h"
#include "hardware/hardware.h"
#include "hardware/measured_thread.h"
#include <cmath>
#include <regex>

namespace lp {

Expected<ThreadSize> thread_size(const std::string& text) {
    static const std::regex free(
        "\\s*[mM]?\\s*([0-9]+(?:\\.[0-9]+)?)\\s*(?:mm)?\\s*(?:x|X|×|\\*)\\s*([0-9]+(?:\\.[0-9]+)?)\\s*(?:mm)?\\s*"),
        inch("\\s*(UN[CF])?\\s*-?\\s*(#?[0-9]+(?:/[0-9]+)?)\\s*(?:-\\s*([0-9]+))?\\s*(UN[CF])?\\s*", std::regex::icase),
        inch_family("\\s*UN[CF].*|.*UN[CF]\\s*|.*/.*|#.*", std::regex::icase);
    if (text.size() > 60) return problem(ProblemCode::Wording, "That is no size of a thread.", "Write M10 or 58x4.");
    std::smatch found;
    if (std::regex_match(text, found, free)) {
        const double major = std::stod(found[1]), pitch = std::stod(found[2]);
        if (!(pitch > 0) || !(major > 0))
            return problem(ProblemCode::Range, "A thread needs a diameter and a pitch.", "Write M10 or 58x4.");
        return ThreadSize{text, major, pitch};
    }
    if (const auto measured = measured_thread(text)) return ThreadSize{text, measured->outer_mm, measured->pitch_mm};
    static const Hardware tables;
    std::string words = text + " thread";
    if (std::regex_match(text, inch_family) && text[0] != 'G' && text[0] != 'g') {
        if (!std::regex_match(text, found, inch))
            return problem(ProblemCode::Wording, "That is no size of a thread.", "Write UNC-1/4 or 1/4-20.");
        words = found[2].str() + (found[3].matched ? "-" + found[3].str() : "") + " thread";
        const std::string series = found[1].matched ? found[1].str() : found[4].str();
        words += series.empty() ? (found[3].matched ? "" : " unc") : " " + series;
    } else if (!text.empty() && (text[0] == 'M' || text[0] == 'm')) {
        words += " coarse";
    }
    const auto rows = tables.find(words);
    if (!rows)
        return problem(ProblemCode::Missing, "No table has the thread \"" + text + "\".",
                       rows.error().advice + " Or give diameter and pitch: 58x4.");
    for (const HardwareRow& row : *rows) {
        const double *d = row.size_of("d"), *p = row.size_of("P");
        if (d && p && rows->size() < 12) return ThreadSize{row.size, *d, *p};
    }
    return problem(ProblemCode::Missing, "That is no size of a thread.", "Write M10, UNC-1/4 or 58x4.");
}

} // namespace lp
