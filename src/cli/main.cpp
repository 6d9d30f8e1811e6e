#include "base/text.h"
#include "cli/commands.h"
#include "formats/formats.h"
#include <CLI/CLI.hpp>
#include <iostream>
#include <nlohmann/json.hpp>

using namespace lp::cli;

int main(int argc, char** argv) {
    CLI::App app{"Loose Peg from the command line: functional parts for filament printing."};
    app.name("loose-peg-cli");
    app.require_subcommand(1);
    app.set_version_flag("--version", "loose-peg-cli 0.1.0");
    Common common;
    int status = 0;
    auto add = [&](const char* name, const char* purpose, auto run) {
        CLI::App* sub = app.add_subcommand(name, purpose);
        sub->add_flag("--json", common.json, "one JSON object on standard output");
        sub->callback([run, &status] { status = run(); });
        return sub;
    };

    InspectArgs inspect;
    CLI::App* sub = add("inspect", "tell everything about a mesh", [&] { return inspect_command(inspect, common); });
    sub->add_option("FILE", inspect.file, "STL, OBJ or 3MF")->required();
    sub->add_option("--up", inspect.up, "direction that points up when printed: X,Y,Z");
    sub->add_option("--nozzle", inspect.options.nozzle_mm, "nozzle, mm")->check(CLI::PositiveNumber);
    sub->add_option("--overhang-limit", inspect.options.overhang_limit_deg, "degrees from vertical")
        ->check(CLI::Range(0.0, 90.0));
    sub->add_option("--bed", inspect.bed, "bed, mm: WxDxH");
    sub->add_option("--min-gap", inspect.options.min_gap_mm, "smallest gap that stays open, mm")
        ->check(CLI::NonNegativeNumber);

    MendArgs mend;
    sub = add("mend", "weld, turn and close a damaged mesh", [&] { return mend_command(mend, common); });
    sub->add_option("IN", mend.in)->required();
    sub->add_option("OUT", mend.out)->required();
    sub->add_option("--tolerance", mend.tolerance, "open edges nearer than this are welded, mm");

    CombineArgs combine;
    sub =
        add("combine", "join, cut or keep the common part of meshes", [&] { return combine_command(combine, common); });
    sub->add_option("OPERATION", combine.operation, "join, cut or common")
        ->required()
        ->check(CLI::IsMember({"join", "cut", "common"}));
    sub->add_option("OUT", combine.out)->required();
    sub->add_option("FILES", combine.files, "first and others")->required()->expected(2, 10000);

    SplitArgs split;
    sub = add("split", "part a mesh by a plane into two closed ones", [&] { return split_command(split, common); });
    sub->add_option("IN", split.in)->required();
    sub->add_option("OUT_A", split.out_a, "the side the plane's normal points to")->required();
    sub->add_option("OUT_B", split.out_b, "the other side")->required();
    sub->add_option("--plane", split.plane, "NX,NY,NZ,D: all points p with n . p = D |n|, D in mm")->required();

    ConvertArgs convert;
    sub = add("convert", "write a mesh in another format", [&] { return convert_command(convert, common); });
    sub->add_option("IN", convert.in)->required();
    sub->add_option("OUT", convert.out)->required();
    sub->add_option("--deviation", convert.deviation, "chord error for exact bodies, mm");

    LayersArgs layers;
    sub = add("layers", "lay a part in layers: islands, time, mass", [&] { return layers_command(layers, common); });
    sub->add_option("FILE", layers.file)->required();
    sub->add_option("--layer-height", layers.layer_height, "mm");
    sub->add_option("--first-layer", layers.first_layer, "mm");
    sub->add_option("--walls", layers.walls, "number of outlines");
    sub->add_option("--infill", layers.infill, "percent");
    sub->add_option("--raft-layers", layers.raft_layers, "layers of raft below");

    GapsArgs gaps;
    sub = add("gaps", "smallest gaps between bodies", [&] { return gaps_command(gaps, common); });
    sub->add_option("FILES", gaps.files, "a project, or meshes posed together")->required();
    sub->add_option("--below", gaps.below, "mm");

    GrowArgs grow;
    sub = add("grow", "a body larger (or smaller) by a distance on all sides",
              [&] { return grow_command(grow, common); });
    sub->add_option("IN", grow.in)->required();
    sub->add_option("OUT", grow.out)->required();
    sub->add_option("--by", grow.by, "mm; negative shrinks")->required();

    GaugeArgs gauge;
    sub = add("gauge", "a coupon with a ladder of gaps", [&] { return gauge_command(gauge, common); });
    sub->add_option("OUT", gauge.out)->required();
    sub->add_option("--contact", gauge.contact, "peg, pin, slot, screw or hinge")->required();
    sub->add_option("--from", gauge.from, "gap a face of number 1, mm");
    sub->add_option("--to", gauge.to, "gap a face of the last number, mm");
    sub->add_option("--count", gauge.count, "steps");
    sub->add_option("--size", gauge.size, "diameter or width, mm; usual for the contact when not given");

    SupportsArgs supports;
    sub = add("supports", "upright posts under what hangs", [&] { return supports_command(supports, common); });
    sub->add_option("IN", supports.in)->required();
    sub->add_option("OUT", supports.out)->required();
    sub->add_option("--kind", supports.kind, "post")->check(CLI::IsMember({"post"}));
    sub->add_option("--overhang-limit", supports.overhang_limit, "degrees from vertical");
    sub->add_option("--contact-gap", supports.contact_gap, "mm");

    OutlineArgs outline;
    sub = add("outline", "read an SVG or DXF drawing: areas, regions, gaps",
              [&] { return outline_command(outline, common); });
    sub->add_option("FILE", outline.file, "SVG or DXF")->required();
    sub->add_option("--fill", outline.fill, "fill rule for all paths together; otherwise as the file says")
        ->check(CLI::IsMember({"evenodd", "nonzero"}));

    MakeArgs make;
    sub = add("make", "make a project's parts", [&] { return make_command(make, common); });
    sub->add_option("PROJECT", make.project, "a .loosepeg file or a project.json")->required();
    sub->add_option("--set", make.set, "NAME=EXPR for a parameter, PART/STEP/FIELD=EXPR for a number of a step");
    sub->add_option("--to", make.to, "folder for the files");
    std::vector<std::string> formats;
    for (const lp::FileFormat& format : lp::file_formats())
        if (format.write) formats.push_back(format.id);
    sub->add_option("--format", make.formats, lp::joined(formats))->check(CLI::IsMember(formats));

    add("steps", "every kind of step with its fields", [&] { return steps_command(common); });

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    } catch (const std::exception& error) {
        // Out of memory and the like: still one line and no half-written file.
        std::cerr << "loose-peg-cli: " << error.what() << "\n";
        return 1;
    }
    return status;
}
