#include "base/text.h"
#include "cli/commands.h"
#include "formats/formats.h"
#include <CLI/CLI.hpp>
#include <iostream>
#include <nlohmann/json.hpp>
#include <set>

using namespace lp::cli;

namespace {

/// The program's commands; what they were given lives as long as it is parsed and run.
class Commands {
  public:
    explicit Commands(CLI::App& app) : app_(app) {
        add_mesh_commands();
        add_making_commands();
    }
    const std::set<std::string>& names() const { return names_; }
    int status = 0;

  private:
    template <class Run> CLI::App* add(const char* name, const char* purpose, Run run) {
        CLI::App* sub = app_.add_subcommand(name, purpose);
        names_.insert(name);
        sub->add_flag("--json", common.json, "one JSON object on standard output");
        sub->callback([this, run] { status = run(); });
        return sub;
    }
    void add_mesh_commands();
    void add_making_commands();
    void add_project(CLI::App* sub, ProjectArgs& args) {
        sub->add_option("PROJECT", args.project, "a .loosepeg file or a project.json")->required();
        sub->add_option("--set", args.set, "NAME=EXPR for a parameter, PART/STEP/FIELD=EXPR for a number of a step");
        sub->add_option("--variant", args.variants, "PART/NAME: a part with the numbers of one of its variants");
        sub->add_option("--import", args.imports, "PART=FILE: the file in the place of the one the part begins with");
    }

    CLI::App& app_;
    std::set<std::string> names_;
    Common common;
    struct {
        InspectArgs inspect;
        MendArgs mend;
        SimplifyArgs simplify;
        CombineArgs combine;
        SplitArgs split;
        ConvertArgs convert;
        LayersArgs layers;
        GcodeArgs gcode;
        PracticeArgs practice;
        FeaturesArgs features;
        GapsArgs gaps;
        GrowArgs grow;
        GaugeArgs gauge;
        HardwareArgs hardware;
        ThreadArgs thread;
        SupportsArgs supports;
        PosesArgs poses;
        ArrangeArgs arrange;
        OutlineArgs outline;
        SheetArgs sheet;
        SectionArgs section;
        MakeArgs make;
        CheckArgs check;
        MoveArgs move;
    } arguments;
};

void Commands::add_mesh_commands() {
    CLI::App* sub =
        add("inspect", "tell everything about a mesh", [this] { return inspect_command(arguments.inspect, common); });
    sub->add_option("FILE", arguments.inspect.file, "STL, OBJ or 3MF")->required();
    sub->add_option("--up", arguments.inspect.up, "direction that points up when printed: X,Y,Z");
    sub->add_option("--nozzle", arguments.inspect.options.nozzle_mm, "nozzle, mm")->check(CLI::PositiveNumber);
    sub->add_option("--overhang-limit", arguments.inspect.options.overhang_limit_deg, "degrees from vertical")
        ->check(CLI::Range(0.0, 90.0));
    sub->add_option("--bed", arguments.inspect.bed, "bed, mm: WxDxH");
    sub->add_option("--min-gap", arguments.inspect.options.min_gap_mm, "smallest gap that stays open, mm")
        ->check(CLI::NonNegativeNumber);

    sub = add("mend", "weld, turn and close a damaged mesh", [this] { return mend_command(arguments.mend, common); });
    sub->add_option("IN", arguments.mend.in)->required();
    sub->add_option("OUT", arguments.mend.out)->required();
    sub->add_option("--tolerance", arguments.mend.tolerance,
                    "open edges nearer than this are welded, mm; of a rebuilt skin: holes twice as wide are bridged");
    sub->add_flag("--rebuild", arguments.mend.rebuild, "as a watertight skin, when nothing else works");

    sub = add("simplify", "fewer facets within a distance of what the mesh was",
              [this] { return simplify_command(arguments.simplify, common); });
    sub->add_option("IN", arguments.simplify.in)->required();
    sub->add_option("OUT", arguments.simplify.out)->required();
    sub->add_option("--deviation", arguments.simplify.deviation, "mm that the surface may move");

    sub = add("combine", "join, cut or keep the common part of meshes",
              [this] { return combine_command(arguments.combine, common); });
    sub->add_option("OPERATION", arguments.combine.operation, "join, cut or common")
        ->required()
        ->check(CLI::IsMember({"join", "cut", "common"}));
    sub->add_option("OUT", arguments.combine.out)->required();
    sub->add_option("FILES", arguments.combine.files, "first and others")->required()->expected(2, 10000);

    sub = add("split", "part a mesh by a plane into two closed ones",
              [this] { return split_command(arguments.split, common); });
    sub->add_option("IN", arguments.split.in)->required();
    sub->add_option("OUT_A", arguments.split.out_a, "the side the plane's normal points to")->required();
    sub->add_option("OUT_B", arguments.split.out_b, "the other side")->required();
    sub->add_option("--plane", arguments.split.plane, "NX,NY,NZ,D: all points p with n . p = D |n|, D in mm")
        ->required();

    sub =
        add("convert", "write a mesh in another format", [this] { return convert_command(arguments.convert, common); });
    sub->add_option("IN", arguments.convert.in)->required();
    sub->add_option("OUT", arguments.convert.out)->required();
    sub->add_option("--deviation", arguments.convert.deviation, "chord error for exact bodies, mm");

    sub = add("layers", "lay a part in layers: islands, time, mass",
              [this] { return layers_command(arguments.layers, common); });
    sub->add_option("FILE", arguments.layers.file, "a mesh, or a project: each printed part as its cards say")
        ->required();
    sub->add_option("--layer-height", arguments.layers.layer_height, "mm");
    sub->add_option("--first-layer", arguments.layers.first_layer, "mm");
    sub->add_option("--walls", arguments.layers.walls, "number of outlines");
    sub->add_option("--infill", arguments.layers.infill, "percent");
    sub->add_option("--fill", arguments.layers.fill, "what the inside is filled with: lines, grid, gyroid");
    sub->add_option("--gcode", arguments.layers.gcode,
                    "write the lines as G-code, to be looked at and not for a machine: a file, or for a project a "
                    "folder with a file a part and a file a bed");
    sub->add_option("--set", arguments.layers.set, "NAME=EXPR, for a project");
    sub->add_option("--raft-layers", arguments.layers.raft_layers, "layers of raft below");

    sub = add("features", "planes, cylinders, cones and spheres recognised in a mesh",
              [this] { return features_command(arguments.features, common); });
    sub->add_option("FILE", arguments.features.file, "a mesh")->required();

    sub = add("practice", "print in practice: beads that grow, droop and fuse; the printed body and its deviation",
              [this] { return practice_command(arguments.practice, common); });
    sub->add_option("FILE", arguments.practice.file, "a mesh, every shell a body, or a project")->required();
    sub->add_option("OUT", arguments.practice.out, "the printed body: " + lp::written_titles())->required();
    sub->add_option("--growth", arguments.practice.growth, "mm that outside faces and walls of holes stand out");
    sub->add_option("--layer-height", arguments.practice.layer_height, "mm");
    sub->add_option("--flare", arguments.practice.flare, "mm that the first layer stands out");
    sub = add("gcode", "a print plan made elsewhere: layers, size, filament, time, what lies on nothing",
              [this] { return gcode_command(arguments.gcode, common); });
    sub->add_option("FILE", arguments.gcode.file, "G-code")->required();
    sub->add_option("--overhang-limit", arguments.gcode.overhang_limit, "degrees from vertical");

    sub = add("gaps", "smallest gaps between bodies", [this] { return gaps_command(arguments.gaps, common); });
    sub->add_option("FILES", arguments.gaps.files, "a project, or meshes posed together")->required();
    sub->add_option("--below", arguments.gaps.below, "mm");
}

void Commands::add_making_commands() {
    CLI::App* sub = add("grow", "a body larger (or smaller) by a distance on all sides",
                        [this] { return grow_command(arguments.grow, common); });
    sub->add_option("IN", arguments.grow.in)->required();
    sub->add_option("OUT", arguments.grow.out)->required();
    sub->add_option("--by", arguments.grow.by, "mm; negative shrinks")->required();

    sub = add("hardware", "bought things by name: sizes of the standards' tables with their source",
              [this] { return hardware_command(arguments.hardware, common); });
    sub->add_option("WORDS", arguments.hardware.words, "m4 nut; countersunk m3 12; 1/4-20")->required();
    sub = add("thread", "a screw thread, or a ring with one in it",
              [this] { return thread_command(arguments.thread, common); });
    sub->add_option("OUT", arguments.thread.out)->required();
    sub->add_option("--size", arguments.thread.size, "M10, M10x1.25, UNC-1/4, G1/2, or diameter x pitch: 58x4")
        ->required();
    sub->add_option("--length", arguments.thread.length, "mm");
    sub->add_option("--side", arguments.thread.side, "outside or inside");
    sub->add_option("--profile", arguments.thread.profile, "sharp, round, trapezoid or buttress");
    sub->add_option("--starts", arguments.thread.starts, "grooves side by side");
    sub->add_option("--hand", arguments.thread.hand, "right or left");
    sub->add_option("--fit", arguments.thread.fit, "gap of this side on flanks, crests and roots, mm");
    sub->add_option("--wall", arguments.thread.wall, "of a ring with an inside thread, mm");
    sub = add("gauge", "a coupon with a ladder of gaps", [this] { return gauge_command(arguments.gauge, common); });
    sub->add_option("OUT", arguments.gauge.out)->required();
    sub->add_option("--contact", arguments.gauge.contact, "peg, pin, slot, screw, thread or hinge")->required();
    sub->add_option("--from", arguments.gauge.from, "gap a face of number 1, mm");
    sub->add_option("--to", arguments.gauge.to, "gap a face of the last number, mm");
    sub->add_option("--count", arguments.gauge.count, "steps");
    sub->add_option("--size", arguments.gauge.size, "diameter or width, mm; usual for the contact when not given");

    sub = add("supports", "posts or branching trees under what hangs",
              [this] { return supports_command(arguments.supports, common); });
    sub->add_option("IN", arguments.supports.in, "a mesh, or a project: each printed part as it lies")->required();
    sub->add_option("OUT", arguments.supports.out)->required();
    sub->add_option("--kind", arguments.supports.kind, "post or tree")->check(CLI::IsMember({"post", "tree"}));
    sub->add_option("--overhang-limit", arguments.supports.overhang_limit, "degrees from vertical");
    sub->add_option("--contact-gap", arguments.supports.contact_gap, "mm");
    sub->add_option("--gap-layers", arguments.supports.gap_layers,
                    "of the print, in place of that; 0: as --contact-gap");
    sub->add_option("--spacing", arguments.supports.spacing, "of tips under flat areas, mm");
    sub->add_option("--post", arguments.supports.post, "across the shaft, mm; a tree's thinnest branch is half of it");
    sub->add_option("--tip", arguments.supports.tip, "across, mm");
    sub->add_option("--neck", arguments.supports.neck, "height over which a tip widens, mm");
    sub->add_option("--foot", arguments.supports.foot, "by which it is wider all round on the bed, mm");
    sub->add_option("--interface-layers", arguments.supports.interface_layers,
                    "of a closed floor on their tips; 0: none");

    sub = add("poses", "how else a part could lie: supports, height, footing, the best first",
              [this] { return poses_command(arguments.poses, common); });
    sub->add_option("FILE", arguments.poses.file, "a mesh, or a project: each printed part")->required();
    sub->add_option("--top", arguments.poses.top, "how many");
    sub->add_option("--overhang-limit", arguments.poses.overhang_limit, "degrees from vertical");
    sub = add("arrange", "meshes on as few beds as they need, a 3MF a bed",
              [this] { return arrange_command(arguments.arrange, common); });
    sub->add_option("OUT", arguments.arrange.out, "written: OUT-1.3mf, OUT-2.3mf and so on")->required();
    sub->add_option("FILE", arguments.arrange.files, "a mesh as it lies; with *N so many of it")->required();
    sub->add_option("--bed", arguments.arrange.bed, "width x depth, mm");
    sub->add_option("--spacing", arguments.arrange.spacing, "from outline to outline, mm");

    sub = add("outline", "read an SVG or DXF drawing: areas, regions, gaps",
              [this] { return outline_command(arguments.outline, common); });
    sub->add_option("FILE", arguments.outline.file, "SVG or DXF")->required();
    sub->add_option("--fill", arguments.outline.fill, "fill rule for all paths together; otherwise as the file says")
        ->check(CLI::IsMember({"evenodd", "nonzero"}));

    sub = add("make", "make a project's parts", [this] { return make_command(arguments.make, common); });
    add_project(sub, arguments.make);
    sub->add_flag("--in-place", arguments.make.in_place, "parts as they stand in the design, not as printed");
    sub->add_flag("--as-far-as-it-goes", arguments.make.as_far_as_it_goes,
                  "writes parts although one of their steps failed");
    sub->add_option("--to", arguments.make.to, "folder for the files");
    sub->add_flag("--sheet", arguments.make.sheet, "the page for the workshop goes into the folder too");
    sub->add_option("--table", arguments.make.table,
                    "a table of numbers (CSV): the first row names them, the first column its rows; each row is made "
                    "and written to a folder of its own");
    std::vector<std::string> formats;
    for (const lp::FileFormat& format : lp::file_formats())
        if (format.write) formats.push_back(format.id);
    sub->add_option("--format", arguments.make.formats, lp::joined(formats))->check(CLI::IsMember(formats));

    sub = add("section", "where a plane cuts a body, as DXF or SVG in millimetres",
              [this] { return section_command(arguments.section, common); });
    sub->add_option("IN", arguments.section.in)->required();
    sub->add_option("OUT", arguments.section.out, "a .dxf or .svg file")->required();
    sub->add_option("--plane", arguments.section.plane, "X,Y,Z,D: its normal, and its distance from the origin")
        ->required();

    sub = add("sheet", "the page for the workshop as PDF: pictures, parts, what to buy, fits, pauses, settings",
              [this] { return sheet_command(arguments.sheet, common); });
    add_project(sub, arguments.sheet);
    sub->add_option("OUT", arguments.sheet.out, "a .pdf file; of a drawing .svg too")->required();
    sub->add_option("--paper", arguments.sheet.paper, "a4 or letter");
    sub->add_option("--part", arguments.sheet.part, "in its place a drawing of this part, with what to measure on it");

    sub = add("check", "every finding of every part and contact of a project",
              [this] { return check_command(arguments.check, common); });
    add_project(sub, arguments.check);
    sub->add_flag("--assembly", arguments.check.assembly, "also in which order the parts are put together");

    sub = add("move", "lead a body along a movement kept in the project",
              [this] { return move_command(arguments.move, common); });
    add_project(sub, arguments.move);
    sub->add_option("MOVEMENT", arguments.move.movement, "its number, or what it moves")->required();
    sub->add_flag("--printed", arguments.move.printed, "with the parts as a practice print leaves them");

    add("steps", "every kind of step with its fields", [this] { return steps_command(common); });
}

} // namespace

int main(int argc, char** argv) {
    CLI::App app{"Loose Peg from the command line: functional parts for filament printing."};
    app.name("loose-peg-cli");
    app.require_subcommand(1);
    app.set_version_flag("--version", "loose-peg-cli 0.1.0");
    Commands commands(app);
    // The library would only say that a subcommand is required.
    if (argc > 1 && argv[1][0] != '-' && commands.names().count(argv[1]) == 0) {
        const std::vector<std::string> all(commands.names().begin(), commands.names().end());
        return usage("there is no subcommand \"" + std::string(argv[1]).substr(0, 60) + "\"; there are " +
                     lp::joined(all) + ".");
    }
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    } catch (const std::exception& error) {
        // Out of memory and the like: still one line and no half-written file.
        std::cerr << "loose-peg-cli: " << error.what() << "\n";
        return 1;
    }
    return commands.status;
}
