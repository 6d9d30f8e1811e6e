// Printer and material cards: what this printer and this filament really do. Plain values with an open JSON form.
#pragma once
#include "base/problem.h"
#include <map>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

namespace lp {

/// How much the wall of a round hole stands in, by the hole's diameter.
struct HoleShrink {
    double diameter_mm = 0, shrink_mm = 0;
    bool operator==(const HoleShrink&) const = default;
};

/// What a printed gauge said, kept for ever: the numbers of the coupon that felt like each fit.
struct GaugeResult {
    std::string date;              ///< "2026-11-25"
    std::string contact = "peg";   ///< kind of the gauge
    double nominal_mm = 8;         ///< diameter or width
    double from_mm = 0, to_mm = 0; ///< gaps a face of its ends
    int count = 0;
    std::map<std::string, int> felt; ///< fit to number, from 1: {"slide": 3}
    double spread_mm = 0;            ///< how far its entries were from the card they gave
    bool operator==(const GaugeResult&) const = default;
};

/// What the inside is filled with.
enum class Infill { Lines, Grid, Gyroid };
constexpr int infills = 3;
/// As files and people have it: "lines", "grid", "gyroid".
const char* word_of(Infill infill);
std::optional<Infill> infill_called(const std::string& word);

/// A print whose time was told before, and taken.
struct TimedPrint {
    std::string what, date;
    double told_s = 0, took_s = 0;
    bool operator==(const TimedPrint&) const = default;
};
/// Problem when the two say nothing: below a minute, beyond a month, or ten times apart.
std::optional<Problem> check_timed(const TimedPrint& print);

/// What prints took against what was told, without the heating before.
struct TimeFactor {
    double factor = 1;
    double off = 0; ///< the print it is furthest from, as a share
    size_t prints = 0;
};
/// The geometric mean, pulled to `expected` as by half a print; 1 without any. `start_s`: told and taken before the
/// first layer, not multiplied.
TimeFactor time_factor(const std::vector<TimedPrint>& prints, double start_s, double expected = 1);

/// A size that was measured on a print, beside what was drawn.
struct MeasuredSize {
    std::string what, date; ///< "Cradle: hole, upright"; "2026-11-25"
    double drawn_mm = 0, found_mm = 0;
    bool hole = false, round = false; ///< else over outside faces, and flat ones
    double spread_mm = 0;             ///< how far it was, a face, from the card it gave
    bool operator==(const MeasuredSize&) const = default;
};

/// What this printer really does. Lengths in mm, a face where faces are meant.
struct PrinterCard {
    std::string name = "Bench printer";
    double nozzle_mm = 0.4;
    double line_width_mm = 0; ///< 0: 1.125 times the nozzle
    double layer_height_mm = 0.2;
    double first_layer_mm = 0.2;
    Vec3 bed_mm{220, 220, 250};
    double outside_growth_mm = 0.1;          ///< outside faces stand out by this
    double hole_shrink_mm = 0.1;             ///< walls of holes stand in by this
    std::vector<HoleShrink> hole_shrinks;    ///< of round holes, by diameter; empty: hole_shrink_mm for all
    double lying_sag_mm = 0;                 ///< a gap between faces that lie flat closes by this
    double first_layer_flare_mm = 0.2;       ///< the first layer stands out by this
    double smallest_open_gap_mm = 0.25;      ///< between upright faces: below this an in-place gap fuses
    double smallest_open_gap_lying_mm = 0.3; ///< between faces one above the other
    double overhang_limit_deg = 45;          ///< from vertical, printed without support
    double bridge_limit_mm = 10;
    double head_reach_mm = 35;  ///< the head stands out so far round its nozzle; common practice, no published source
    double head_passes_mm = 25; ///< what is printed already may be so tall for the head's carriage to pass over it
    int walls = 3;
    double infill_percent = 15;
    Infill infill = Infill::Lines;
    int skirt_loops = 0;        ///< round everything in the first layer, to let the plastic flow
    double power_w = 100;       ///< drawn while printing, on average; common practice, no published source
    double price_per_kwh = 0.3; ///< common practice, no published source
    std::map<std::string, std::string> sources; ///< where a number comes from, by its JSON key
    std::vector<GaugeResult> gauges;            ///< in the order they were entered
    std::vector<MeasuredSize> measured;         ///< in the order they were entered
    std::vector<TimedPrint> timed;              ///< in the order they were entered
    bool operator==(const PrinterCard&) const = default;

    double line_mm() const { return line_width_mm > 0 ? line_width_mm : nozzle_mm * 1.125; }
    /// Straight between the table's diameters, as at its ends beyond them.
    double hole_shrink_at(double diameter_mm) const;
    /// Upright faces drawn nearer than this are closed by the first layer: both flare, and what is left must stay open
    /// as elsewhere.
    double first_layer_gap_mm() const;
    /// Of a number by its JSON key: "measured with a round peg gauge, 2026-11-25", or common practice.
    std::string source_of(const std::string& key) const;
};

struct MaterialCard {
    std::string name = "PLA";
    double density_g_cm3 = 1.24; ///< reference/tables.md 12
    double price_per_kg = 20;    ///< common practice, no published source
    double filament_mm = 1.75;
    double shrink_percent = 0;          ///< how much it has shrunk along the bed when it is cold; exported larger by it
    double shrink_up_percent = 0;       ///< the same across the layers
    double modulus_mpa = 2000;          ///< of elasticity, printed, along its lines; from memory, they scatter widely
    double strain_percent = 2;          ///< it may be bent by again and again; reference/tables.md 11: 1 to 4
    std::map<std::string, double> fits; ///< gaps a face that differ with this material, by the fit's name
    bool operator==(const MaterialCard&) const = default;
};

void to_json(nlohmann::json& json, const PrinterCard& card);
void from_json(const nlohmann::json& json, PrinterCard& card);
void to_json(nlohmann::json& json, const MaterialCard& card);
void from_json(const nlohmann::json& json, MaterialCard& card);

/// Problem when a number of the card makes no sense.
std::optional<Problem> check_card(const PrinterCard& card);
std::optional<Problem> check_card(const MaterialCard& card);

} // namespace lp
