// The subcommands (docs: cli contract). Each returns the exit status: 0 done, 1 refused by the geometry, 3 an input
// file was refused; usage errors end earlier with 2.
#pragma once
#include "base/problem.h"
#include "bed/support_figures.h"
#include "bed/supports.h"
#include "check/inspection.h"
#include "layers/layer_plan.h"
#include "layers/motion_times.h"
#include "layers/write_gcode.h"
#include "project/contact_ledger.h"
#include <nlohmann/json.hpp>
#include <optional>
#include <sstream>
#include <string>
#include <vector>

namespace lp::cli {

/// Exactly N finite numbers.
template <int N> bool parse_numbers(const std::string& text, char separator, Eigen::Matrix<double, N, 1>& out) {
    std::istringstream stream(text);
    std::string word;
    int k = 0;
    while (std::getline(stream, word, separator)) {
        if (k == N) return false;
        char* end = nullptr;
        double value = std::strtod(word.c_str(), &end);
        if (word.empty() || *end || !std::isfinite(value)) return false;
        out[k++] = value;
    }
    return k == N;
}

struct Common {
    bool json = false;
};

struct InspectArgs {
    std::string file;
    InspectionOptions options;
    std::string up = "0,0,1", bed = "220x220x250";
};
struct MendArgs {
    std::string in, out;
    std::optional<double> tolerance;
    bool rebuild = false;
};
struct SimplifyArgs {
    std::string in, out;
    double deviation = 0.005;
};
struct CombineArgs {
    std::string operation, out;
    std::vector<std::string> files;
};
struct SplitArgs {
    std::string in, out_a, out_b, plane;
};
struct SectionArgs {
    std::string in, out, plane;
};
struct ConvertArgs {
    std::string in, out;
    double deviation = 0.01;
};
struct FeaturesArgs {
    std::string file;
};
struct GcodeArgs {
    std::string file;
    double overhang_limit = 45;
};
struct PracticeArgs {
    std::string file, out;
    std::optional<double> growth, layer_height, flare; ///< a project's are on its printer card where not given
};
struct LayersArgs {
    std::string file;
    double layer_height = 0.2, first_layer = 0.2, infill = 15;
    int walls = 3, raft_layers = 0;
    std::string fill = "lines";
    std::string gcode;            ///< where the plan is written; a folder for projects
    std::vector<std::string> set; ///< for projects
};
struct GapsArgs {
    std::vector<std::string> files;
    double below = 1.0;
};
struct GrowArgs {
    std::string in, out;
    double by = 0;
};
struct GaugeArgs {
    std::string out, contact = "peg";
    double from = 0.1, to = 0.5, size = 0;
    int count = 5;
};
struct SupportsArgs {
    std::string in, out;
    std::optional<std::string> kind;                   ///< post or tree
    std::optional<double> overhang_limit, contact_gap; ///< a project's parts have their own where they are not given
    std::optional<double> spacing, post, tip, neck, foot;
    std::optional<int> interface_layers, gap_layers;
};
struct ArrangeArgs {
    std::string out, bed = "220x220";
    std::vector<std::string> files;
    double spacing = 3;
};
struct PosesArgs {
    std::string file;
    int top = 5;
    std::optional<double> overhang_limit; ///< a project's is on its printer card where it is not given
};
struct OutlineArgs {
    std::string file, fill;
};
/// A project with numbers of its own.
struct ProjectArgs {
    std::string project;
    std::vector<std::string> set, variants, imports = {};
};
struct MakeArgs : ProjectArgs {
    std::string to, table;
    std::vector<std::string> formats;
    bool in_place = false, as_far_as_it_goes = false, sheet = false;
};
struct SheetArgs : ProjectArgs {
    std::string out, paper = "a4", part;
};
struct CheckArgs : ProjectArgs {
    bool assembly = false;
};
struct MoveArgs : ProjectArgs {
    std::string movement;
    bool printed = false;
};

struct HardwareArgs {
    std::vector<std::string> words;
};
struct ThreadArgs {
    std::string out, size, side = "outside", profile = "sharp", hand = "right";
    double length = 20, fit = 0, wall = 3;
    int starts = 1;
};

int inspect_command(const InspectArgs& args, const Common& common);
int mend_command(const MendArgs& args, const Common& common);
int simplify_command(const SimplifyArgs& args, const Common& common);
int combine_command(const CombineArgs& args, const Common& common);
int split_command(const SplitArgs& args, const Common& common);
int convert_command(const ConvertArgs& args, const Common& common);
int layers_command(const LayersArgs& args, const Common& common);
int features_command(const FeaturesArgs& args, const Common& common);
int practice_command(const PracticeArgs& args, const Common& common);
int gcode_command(const GcodeArgs& args, const Common& common);
int gaps_command(const GapsArgs& args, const Common& common);
int grow_command(const GrowArgs& args, const Common& common);
int gauge_command(const GaugeArgs& args, const Common& common);
int hardware_command(const HardwareArgs& args, const Common& common);
int thread_command(const ThreadArgs& args, const Common& common);
int supports_command(const SupportsArgs& args, const Common& common);
/// The same of a project's printed parts.
int layers_of_project(const LayersArgs& args, const Common& common);
/// The options with every size that was typed in place of theirs.
SupportOptions with_sizes(SupportOptions options, const SupportsArgs& args);
int supports_of_project(const SupportsArgs& args, const Common& common);
int arrange_command(const ArrangeArgs& args, const Common& common);
int poses_command(const PosesArgs& args, const Common& common);
int outline_command(const OutlineArgs& args, const Common& common);
int steps_command(const Common& common);
int make_command(const MakeArgs& args, const Common& common);
int check_command(const CheckArgs& args, const Common& common);
int section_command(const SectionArgs& args, const Common& common);
int sheet_command(const SheetArgs& args, const Common& common);
int move_command(const MoveArgs& args, const Common& common);

/// The object of `supports`.
nlohmann::json support_figures_json(const SupportFigures& figures);
/// The object of `layers` for one plan; `hanging` tells what each layer lays beyond what carries it.
nlohmann::json layers_json(const LayerPlan& plan, double layer_height_mm);
/// time_motion_s and what it is made of.
void tell_motion(const LineTimes& times, nlohmann::json& object);
/// The lines of a posed part as G-code.
std::optional<Problem> write_plan(const TriMesh& posed, const Supports& supports, const LayerOptions& options,
                                  const GcodeOptions& how, const std::string& path, const Task& task);
/// The object of a fit, as `make` and `check` answer it.
nlohmann::json fit_report(const ContactResult& contact);
void print_fit(const ContactResult& contact);

/// The object of cli.md for an inspection.
nlohmann::json inspection_json(const std::string& file, const std::string& format, const Inspection& inspection,
                               const std::optional<size_t>& islands, const std::optional<double>& min_gap_mm);
void print_inspection(const std::string& file, const Inspection& inspection);
/// Smallest gap between the bodies of a mesh; none with fewer than two.
std::optional<double> gap_between_shells(const Soundness& sound, const Task& task);
std::optional<size_t> count_islands(const Inspection& inspection, const InspectionOptions& options, const Task& task);
/// Says what is wrong with the call; returns 2.
int usage(const std::string& message);
nlohmann::json point_json(const Vec3& p);
/// A number, or null when it is not finite.
nlohmann::json number_json(double value);

/// Prints "loose-peg-cli: FILE: sentence advice" on standard error; returns `status`.
int refuse(const std::string& file, const Problem& problem, int status);
/// Progress on standard error when it is a terminal; stops on interrupt.
Task terminal_task();
/// As "2026-11-30".
std::string today();
void print_json(const nlohmann::json& json);

} // namespace lp::cli
