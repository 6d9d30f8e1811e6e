// hardware, thread: what parts are held together with.
#include "base/quantity.h"
#include "cli/commands.h"
#include "formats/formats.h"
#include "hardware/hardware.h"
#include "hardware/measured_thread.h"
#include "hardware/thread_size.h"
#include "mesh/thread_mesh.h"
#include <iostream>

namespace lp::cli {

using nlohmann::json;

static json json_of(const HardwareRow& row) {
    json sizes = json::object(), letters = json::object();
    for (const HardwareSize& size : row.sizes) {
        sizes[size.letter] = size.value;
        letters[size.letter] = size.word;
    }
    return {{"id", row.id},   {"standard", row.standard}, {"name", row.name},     {"size", row.size},
            {"sizes", sizes}, {"words", letters},         {"source", row.source}, {"sure", row.sure}};
}

/// A thread as it was measured: what it is, and the standards' nearest.
static int measured_command(const Hardware& hardware, const MeasuredThread& measured, const Common& common) {
    const auto near = threads_near(hardware, measured);
    if (!common.json) {
        std::cout << measured_words(measured, near) << "\n";
        return 0;
    }
    json list = json::array();
    for (const NearThread& n : near) {
        json row = json_of(n.row);
        row["outer_off_mm"] = n.outer_off_mm;
        row["pitch_off_mm"] = n.pitch_off_mm;
        list.push_back(row);
    }
    print_json({{"rows", list}, {"pitch_mm", measured.pitch_mm}, {"turns_per_inch", measured.turns_per_inch()}});
    return 0;
}

int hardware_command(const HardwareArgs& args, const Common& common) {
    std::string words;
    for (const std::string& word : args.words) words += (words.empty() ? "" : " ") + word;
    const Hardware hardware;
    if (!hardware.passed_over().empty()) std::cerr << "loose-peg-cli: " << hardware.passed_over() << "\n";
    if (const auto measured = measured_thread(words)) return measured_command(hardware, *measured, common);
    const auto rows = hardware.find(words);
    if (!rows) return refuse("hardware", rows.error(), 1);
    if (common.json) {
        json list = json::array();
        for (const HardwareRow& row : *rows) {
            list.push_back(json_of(row));
        }
        print_json({{"rows", list}});
        return 0;
    }
    for (const HardwareRow& row : *rows) {
        std::cout << row.size << " " << row.name << ", " << row.standard << (row.sure ? "" : " (not sure)") << "\n";
        for (const HardwareSize& size : row.sizes)
            std::cout << "    " << size.letter << "  " << format_number(size.value, 3) << "  " << size.word << "\n";
        std::cout << "    source: " << row.source << "\n";
    }
    return 0;
}

int thread_command(const ThreadArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    const auto profile = thread_profile_called(args.profile);
    if (!profile) return usage("--profile is sharp, round, trapezoid or buttress.");
    if (args.side != "outside" && args.side != "inside") return usage("--side is outside or inside.");
    if (args.hand != "right" && args.hand != "left") return usage("--hand is right or left.");
    const auto size = thread_size(args.size);
    if (!size) return usage(size.error().text());
    ThreadShape shape;
    shape.major_mm = size->major_mm;
    shape.pitch_mm = size->pitch_mm;
    shape.length_mm = args.length;
    shape.profile = *profile;
    shape.starts = args.starts;
    shape.left_hand = args.hand == "left";
    shape.inside = args.side == "inside";
    shape.fit_mm = args.fit;
    shape.wall_mm = args.wall;
    const auto thread = make_thread(shape);
    if (!thread) return refuse(args.out, thread.error(), 1);
    if (auto failed = write_mesh_file(args.out, thread->mesh, size->name + " thread"))
        return refuse(args.out, *failed, 1);
    const double volume = mass_properties(thread->mesh).volume_mm3;
    if (common.json) {
        print_json({{"size", size->name},
                    {"major_mm", thread->major_mm},
                    {"minor_mm", thread->minor_mm},
                    {"pitch_mm", shape.pitch_mm},
                    {"starts", shape.starts},
                    {"turns", thread->turns},
                    {"volume_mm3", volume},
                    {"largest_overhang_deg", thread->largest_overhang_deg},
                    {"finish", {{"lead_in", thread->lead_in_mm}, {"run_out", thread->lead_in_mm}}}});
        return 0;
    }
    std::cout << args.out << ": " << size->name << " " << args.side << " thread, " << format_number(thread->major_mm, 3)
              << " over " << format_number(thread->minor_mm, 3) << " mm, " << format_number(thread->turns, 1)
              << " turns, hangs by " << format_number(thread->largest_overhang_deg, 0)
              << " degrees from the vertical\n";
    if (thread->turns < 1.5) std::cout << "    fewer than one and a half turns: it may not hold\n";
    return 0;
}

} // namespace lp::cli
