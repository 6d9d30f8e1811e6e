#include "project/contact_words.h"
#include "base/quantity.h"

namespace lp {
namespace {

std::string n2(double value) {
    return format_fixed(value, 2);
}

/// A fit by its name, or "typed" for a gap of its own.
std::string fit_name(const Project& project, const ContactResult& c) {
    return find_fit(project.fits, c.fit) ? c.fit : "typed";
}

} // namespace

std::string fit_state_words(FitState state) {
    static constexpr const char* words[] = {"as wanted", "tight", "slack", "touches", "overlaps", "not set"};
    return words[size_t(state)];
}

/// What touches and still has nothing to settle is seated so (ContactLedger).
static bool lies_on_its_seat(const ContactResult& c) {
    return c.state == FitState::Unset && c.gap && c.gap->touching;
}

std::string fit_state_words(const ContactResult& c) {
    return lies_on_its_seat(c) ? "lies on its seat" : fit_state_words(c.state);
}

std::string contact_title(const ContactResult& c) {
    size_t slash = c.a.find('/'), other = c.b.find('/');
    // What nobody asked for is only beside the other: neither is known to go into it.
    if (c.part_a != c.part_b || slash == std::string::npos || other == std::string::npos)
        return c.a + (c.wanted ? " in " : " and ") + c.b;
    return c.a.substr(slash + 1) + " and " + c.b.substr(other + 1) + " of " + c.a.substr(0, slash);
}

std::string wanted_words(const Project& project, const ContactResult& c) {
    return c.wanted ? fit_name(project, c) + " " + n2(c.wanted->gap_mm) + " mm" : "not set";
}

std::string found_words(const ContactResult& c) {
    if (!c.gap) return "far apart";
    std::string words = n2(c.gap->min_mm);
    if (c.gap->max_mm && *c.gap->max_mm - c.gap->min_mm > 0.015) words += " … " + n2(*c.gap->max_mm);
    return words + " mm";
}

std::string overlap_words(const ContactResult& c) {
    if (!c.gap || !(c.gap->overlap_mm3 > 0)) return "";
    return "overlaps by " + format_number(c.gap->overlap_mm3, c.gap->overlap_mm3 < 10 ? 2 : 0) + " mm³";
}

std::string contact_words(const Project& project, const ContactResult& c) {
    if (lies_on_its_seat(c)) return fit_state_words(c);
    std::string words = c.wanted ? fit_name(project, c) : "not set";
    if (c.wanted && c.wanted->gap_mm < 0)
        words += " · overlap wanted " + n2(-c.wanted->gap_mm) + " mm";
    else if (c.wanted)
        words += " · wanted " + n2(c.wanted->gap_mm) + " mm";
    if (!c.gap) return words + " · far apart";
    if (const std::string by = overlap_words(c); !by.empty()) return words + " · " + by;
    words += " · found " + found_words(c);
    // Of an even gap the mean says nothing more.
    if (c.facing && c.gap->max_mm && *c.gap->max_mm - c.gap->min_mm > 0.015)
        words += ", mean " + n2(c.facing->mean_mm) + " mm";
    return words;
}

std::string fused_words(const FusedLayers& fused) {
    return "fuses when printed, layers " + std::to_string(fused.first()) + " to " + std::to_string(fused.last());
}

std::string contact_warning(const ContactResult& c) {
    if (c.one_lump()) return "these two bodies are one";
    if (c.fused) return fused_words(*c.fused);
    if (c.closed_at_bed) return "closed by the first layer only";
    if (c.facing && c.facing->tight_share > 0.005)
        return std::to_string(std::max(1, int(std::lround(c.facing->tight_share * 100)))) + " % too tight";
    return {};
}

std::string measure_words(const Measured& measured) {
    std::string words = n2(measured.distance_mm) + " mm apart";
    if (measured.angle_deg)
        words += *measured.angle_deg < 0.005 ? " · parallel" : " · " + n2(*measured.angle_deg) + "°";
    if (measured.centres_mm) words += " · centres " + n2(*measured.centres_mm) + " mm";
    return words;
}

} // namespace lp
