#include "fit/cards.h"
#include "base/whole_json.h"
#include "fit/card_solver.h"
#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

namespace lp {

double PrinterCard::hole_shrink_at(double diameter_mm) const {
    if (hole_shrinks.empty()) return hole_shrink_mm;
    const HoleShrink* below = nullptr;
    for (const HoleShrink& entry : hole_shrinks) {
        if (entry.diameter_mm >= diameter_mm) {
            if (!below) return entry.shrink_mm;
            double t = (diameter_mm - below->diameter_mm) / (entry.diameter_mm - below->diameter_mm);
            return below->shrink_mm + t * (entry.shrink_mm - below->shrink_mm);
        }
        below = &entry;
    }
    return below->shrink_mm;
}

const char* word_of(Infill infill) {
    static constexpr const char* words[infills] = {"lines", "grid", "gyroid"};
    return words[size_t(infill)];
}

std::optional<Infill> infill_called(const std::string& word) {
    for (int i = 0; i < infills; ++i)
        if (word == word_of(Infill(i))) return Infill(i);
    return std::nullopt;
}

std::optional<Problem> check_timed(const TimedPrint& print) {
    constexpr double least_s = 60, most_s = 31 * 86400.0, apart = 10;
    for (double s : {print.told_s, print.took_s})
        if (!(s >= least_s && s <= most_s))
            return Problem{ProblemCode::Range, "A print takes from a minute to a month.",
                           "Give hours: 3.7, or 3 h 42 min."};
    if (std::max(print.told_s / print.took_s, print.took_s / print.told_s) > apart)
        return Problem{ProblemCode::Range, "The two times are more than ten times apart.",
                       "Look whether both are in hours."};
    return std::nullopt;
}

TimeFactor time_factor(const std::vector<TimedPrint>& prints, double start_s, double expected) {
    constexpr double own_weight = 0.5; // what is expected counts as half a print
    TimeFactor found;
    if (prints.empty()) return found;
    auto ratio = [&](const TimedPrint& p) {
        return std::max(p.took_s - start_s, 1.0) / std::max(p.told_s - start_s, 1.0);
    };
    double sum = own_weight * std::log(expected);
    for (const TimedPrint& p : prints) sum += std::log(ratio(p));
    found.prints = prints.size();
    found.factor = std::exp(sum / (own_weight + double(prints.size())));
    for (const TimedPrint& p : prints) found.off = std::max(found.off, std::fabs(ratio(p) / found.factor - 1));
    return found;
}

double PrinterCard::first_layer_gap_mm() const {
    // The narrowest gap that stays open is closed by the growth of both faces to what is closed beyond it.
    const double closes_mm = std::max(0.0, smallest_open_gap_mm - outside_growth_mm - hole_shrink_mm);
    return std::max(smallest_open_gap_mm, 2 * first_layer_flare_mm + closes_mm);
}

std::string PrinterCard::source_of(const std::string& key) const {
    auto found = sources.find(key);
    return found == sources.end() ? "common practice, no published source" : found->second;
}

namespace {
void to_json_of(nlohmann::json& json, const GaugeResult& g) {
    json = {{"date", g.date},       {"contact", g.contact},    {"nominal_mm", g.nominal_mm},
            {"from_mm", g.from_mm}, {"to_mm", g.to_mm},        {"count", g.count},
            {"felt", g.felt},       {"spread_mm", g.spread_mm}};
}
GaugeResult gauge_from(const nlohmann::json& json) {
    GaugeResult g;
    g.date = json.value("date", "");
    g.contact = json.value("contact", g.contact);
    g.nominal_mm = json.value("nominal_mm", g.nominal_mm);
    g.from_mm = json.value("from_mm", 0.0);
    g.to_mm = json.value("to_mm", 0.0);
    if (json.contains("count")) g.count = whole_of<int>(json.at("count"));
    g.felt = json.value("felt", g.felt);
    g.spread_mm = json.value("spread_mm", 0.0);
    return g;
}
nlohmann::json json_of(const MeasuredSize& m) {
    return {{"what", m.what}, {"date", m.date},   {"drawn_mm", m.drawn_mm},  {"found_mm", m.found_mm},
            {"hole", m.hole}, {"round", m.round}, {"spread_mm", m.spread_mm}};
}
MeasuredSize measured_from(const nlohmann::json& json) {
    return {json.value("what", std::string()), json.value("date", std::string()), json.at("drawn_mm").get<double>(),
            json.at("found_mm").get<double>(), json.value("hole", false),         json.value("round", false),
            json.value("spread_mm", 0.0)};
}
} // namespace

void to_json(nlohmann::json& json, const PrinterCard& c) {
    json = {{"name", c.name},
            {"nozzle_mm", c.nozzle_mm},
            {"line_width_mm", c.line_width_mm},
            {"layer_height_mm", c.layer_height_mm},
            {"first_layer_mm", c.first_layer_mm},
            {"bed_mm", {c.bed_mm.x(), c.bed_mm.y(), c.bed_mm.z()}},
            {"outside_growth_mm", c.outside_growth_mm},
            {"hole_shrink_mm", c.hole_shrink_mm},
            {"lying_sag_mm", c.lying_sag_mm},
            {"first_layer_flare_mm", c.first_layer_flare_mm},
            {"smallest_open_gap_mm", c.smallest_open_gap_mm},
            {"smallest_open_gap_lying_mm", c.smallest_open_gap_lying_mm},
            {"overhang_limit_deg", c.overhang_limit_deg},
            {"bridge_limit_mm", c.bridge_limit_mm},
            {"head_reach_mm", c.head_reach_mm},
            {"head_passes_mm", c.head_passes_mm},
            {"walls", c.walls},
            {"infill_percent", c.infill_percent},
            {"infill", word_of(c.infill)},
            {"skirt_loops", c.skirt_loops},
            {"power_w", c.power_w},
            {"price_per_kwh", c.price_per_kwh}};
    for (const TimedPrint& t : c.timed)
        json["timed"].push_back({{"what", t.what}, {"date", t.date}, {"told_s", t.told_s}, {"took_s", t.took_s}});
    for (const MeasuredSize& m : c.measured) json["measured"].push_back(json_of(m));
    for (const HoleShrink& h : c.hole_shrinks)
        json["hole_shrinks"].push_back({{"diameter_mm", h.diameter_mm}, {"shrink_mm", h.shrink_mm}});
    if (!c.sources.empty()) json["sources"] = c.sources;
    for (const GaugeResult& g : c.gauges) {
        nlohmann::json one;
        to_json_of(one, g);
        json["gauges"].push_back(std::move(one));
    }
}
void from_json(const nlohmann::json& json, PrinterCard& c) {
    const PrinterCard standard;
    c.name = json.value("name", standard.name);
    c.nozzle_mm = json.value("nozzle_mm", standard.nozzle_mm);
    c.line_width_mm = json.value("line_width_mm", standard.line_width_mm);
    c.layer_height_mm = json.value("layer_height_mm", standard.layer_height_mm);
    c.first_layer_mm = json.value("first_layer_mm", standard.first_layer_mm);
    if (json.contains("bed_mm")) {
        auto bed = json.at("bed_mm").get<std::array<double, 3>>();
        c.bed_mm = {bed[0], bed[1], bed[2]};
    }
    c.outside_growth_mm = json.value("outside_growth_mm", standard.outside_growth_mm);
    c.hole_shrink_mm = json.value("hole_shrink_mm", standard.hole_shrink_mm);
    c.first_layer_flare_mm = json.value("first_layer_flare_mm", standard.first_layer_flare_mm);
    c.lying_sag_mm = json.value("lying_sag_mm", standard.lying_sag_mm);
    c.smallest_open_gap_mm = json.value("smallest_open_gap_mm", standard.smallest_open_gap_mm);
    c.smallest_open_gap_lying_mm = json.value("smallest_open_gap_lying_mm", standard.smallest_open_gap_lying_mm);
    c.overhang_limit_deg = json.value("overhang_limit_deg", standard.overhang_limit_deg);
    c.bridge_limit_mm = json.value("bridge_limit_mm", standard.bridge_limit_mm);
    c.head_reach_mm = json.value("head_reach_mm", standard.head_reach_mm);
    c.head_passes_mm = json.value("head_passes_mm", standard.head_passes_mm);
    c.walls = json.contains("walls") ? whole_of<int>(json.at("walls")) : standard.walls;
    c.infill_percent = json.value("infill_percent", standard.infill_percent);
    c.infill = infill_called(json.value("infill", std::string(word_of(standard.infill)))).value_or(standard.infill);
    c.skirt_loops = json.contains("skirt_loops") ? whole_of<int>(json.at("skirt_loops")) : standard.skirt_loops;
    c.power_w = json.value("power_w", standard.power_w);
    c.price_per_kwh = json.value("price_per_kwh", standard.price_per_kwh);
    c.timed.clear();
    if (json.contains("timed"))
        for (const auto& t : json.at("timed")) {
            const TimedPrint print{t.value("what", std::string()), t.value("date", std::string()),
                                   t.at("told_s").get<double>(), t.at("took_s").get<double>()};
            if (!check_timed(print)) c.timed.push_back(print);
        }
    c.measured.clear();
    if (json.contains("measured"))
        for (const auto& m : json.at("measured"))
            if (MeasuredSize size = measured_from(m); !check_measured(size)) c.measured.push_back(std::move(size));
    c.hole_shrinks.clear();
    if (json.contains("hole_shrinks"))
        for (const auto& h : json.at("hole_shrinks"))
            c.hole_shrinks.push_back({h.at("diameter_mm").get<double>(), h.at("shrink_mm").get<double>()});
    std::sort(c.hole_shrinks.begin(), c.hole_shrinks.end(),
              [](const HoleShrink& a, const HoleShrink& b) { return a.diameter_mm < b.diameter_mm; });
    c.sources = json.value("sources", standard.sources);
    c.gauges.clear();
    if (json.contains("gauges"))
        for (const auto& g : json.at("gauges")) c.gauges.push_back(gauge_from(g));
}

void to_json(nlohmann::json& json, const MaterialCard& c) {
    json = {{"name", c.name},
            {"density_g_cm3", c.density_g_cm3},
            {"price_per_kg", c.price_per_kg},
            {"filament_mm", c.filament_mm},
            {"shrink_percent", c.shrink_percent},
            {"shrink_up_percent", c.shrink_up_percent},
            {"modulus_mpa", c.modulus_mpa},
            {"strain_percent", c.strain_percent}};
    if (!c.fits.empty()) json["fits"] = c.fits;
}
void from_json(const nlohmann::json& json, MaterialCard& c) {
    const MaterialCard standard;
    c.name = json.value("name", standard.name);
    c.density_g_cm3 = json.value("density_g_cm3", standard.density_g_cm3);
    c.price_per_kg = json.value("price_per_kg", standard.price_per_kg);
    c.filament_mm = json.value("filament_mm", standard.filament_mm);
    c.shrink_percent = json.value("shrink_percent", standard.shrink_percent);
    c.shrink_up_percent = json.value("shrink_up_percent", standard.shrink_up_percent);
    c.modulus_mpa = json.value("modulus_mpa", standard.modulus_mpa);
    c.strain_percent = json.value("strain_percent", standard.strain_percent);
    c.fits = json.value("fits", standard.fits);
}

namespace {
Problem nonsense(const std::string& card, const std::string& what, const std::string& limits) {
    return {ProblemCode::Range, "The " + card + " card's " + what + " makes no sense.", "Use " + limits + "."};
}
} // namespace

std::optional<Problem> check_card(const PrinterCard& c) {
    auto wrong = [](const std::string& what, const std::string& limits) { return nonsense("printer", what, limits); };
    if (!(c.nozzle_mm > 0.05 && c.nozzle_mm < 5)) return wrong("nozzle", "0.05 to 5 mm");
    if (!(c.layer_height_mm >= 0.02 && c.layer_height_mm < 5)) return wrong("layer height", "0.02 to 5 mm");
    if (!(c.first_layer_mm >= 0.02 && c.first_layer_mm < 5)) return wrong("first layer", "0.02 to 5 mm");
    if (!(c.bed_mm.minCoeff() >= 10 && c.bed_mm.maxCoeff() <= 5000)) return wrong("bed", "10 to 5000 mm");
    if (!(std::fabs(c.outside_growth_mm) <= 2 && std::fabs(c.hole_shrink_mm) <= 2))
        return wrong("growth", "at most 2 mm");
    if (!(c.overhang_limit_deg >= 0 && c.overhang_limit_deg <= 90)) return wrong("overhang limit", "0 to 90°");
    if (!(c.line_width_mm >= 0 && c.line_width_mm < 5)) return wrong("line width", "0 (from the nozzle) to 5 mm");
    if (!(std::fabs(c.lying_sag_mm) <= 2 && c.first_layer_flare_mm >= 0 && c.first_layer_flare_mm <= 2))
        return wrong("sag or flare", "at most 2 mm");
    if (!(c.smallest_open_gap_mm >= 0 && c.smallest_open_gap_mm <= 5 && c.smallest_open_gap_lying_mm >= 0 &&
          c.smallest_open_gap_lying_mm <= 5))
        return wrong("smallest open gap", "0 to 5 mm");
    if (!(c.bridge_limit_mm >= 0 && c.bridge_limit_mm <= 500)) return wrong("bridge limit", "0 to 500 mm");
    if (!(c.head_reach_mm >= 0 && c.head_reach_mm <= 300 && c.head_passes_mm >= 0 && c.head_passes_mm <= 2000))
        return wrong("head", "a reach of 0 to 300 mm and a height of 0 to 2000 mm");
    for (const HoleShrink& h : c.hole_shrinks)
        if (!(h.diameter_mm > 0 && h.diameter_mm <= 1000 && std::fabs(h.shrink_mm) <= 2))
            return wrong("table of holes", "diameters above 0 and shrinks of at most 2 mm");
    for (size_t i = 1; i < c.hole_shrinks.size(); ++i)
        if (!(c.hole_shrinks[i].diameter_mm > c.hole_shrinks[i - 1].diameter_mm))
            return wrong("table of holes", "each diameter once");
    if (c.walls < 0 || c.walls > 100) return wrong("number of walls", "0 to 100");
    if (!(c.infill_percent >= 0 && c.infill_percent <= 100)) return wrong("infill", "0 to 100 %");
    if (c.skirt_loops < 0 || c.skirt_loops > 20) return wrong("skirt", "0 to 20 loops");
    if (!(c.power_w >= 0 && c.power_w <= 10'000)) return wrong("power", "0 to 10000 W");
    if (!(c.price_per_kwh >= 0 && c.price_per_kwh <= 1000)) return wrong("price of a kWh", "0 to 1000");
    return std::nullopt;
}

std::optional<Problem> check_card(const MaterialCard& c) {
    auto wrong = [](const std::string& what, const std::string& limits) { return nonsense("material", what, limits); };
    if (!(c.density_g_cm3 > 0.01 && c.density_g_cm3 < 25)) return wrong("density", "0.01 to 25 g/cm³");
    if (!(c.price_per_kg >= 0 && c.price_per_kg < 1e6)) return wrong("price", "0 or more a kg");
    if (!(c.filament_mm > 0.1 && c.filament_mm < 20)) return wrong("filament", "0.1 to 20 mm");
    for (double shrink : {c.shrink_percent, c.shrink_up_percent})
        if (!(shrink >= -5 && shrink <= 20)) return wrong("shrinkage", "-5 to 20 percent");
    if (!(c.modulus_mpa >= 1 && c.modulus_mpa <= 300'000)) return wrong("modulus", "1 to 300000 MPa");
    if (!(c.strain_percent >= 0.05 && c.strain_percent <= 300)) return wrong("strain", "0.05 to 300 percent");
    for (const auto& [name, gap] : c.fits)
        if (!(gap >= -2 && gap <= 20)) return wrong("fit " + name, "-2 to 20 mm");
    return std::nullopt;
}

} // namespace lp
