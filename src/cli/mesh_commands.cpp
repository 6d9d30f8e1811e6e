// inspect, mend, combine, convert, layers, supports: on mesh files.
#include "base/files.h"
#include "base/quantity.h"
#include "base/turn_between.h"
#include "bed/supports.h"
#include "check/footing.h"
#include "cli/made_project.h"
#include "handoff/export_project.h"
#include "layers/layer_plan.h"
#include "mesh/combine.h"
#include "mesh/mend.h"
#include "mesh/rebuild.h"
#include <iostream>
#include <nlohmann/json.hpp>

namespace lp::cli {

using nlohmann::json;

int usage(const std::string& message) {
    std::cerr << "loose-peg-cli: " << message << "\n";
    return 2;
}

/// Smallest gap between the bodies of a mesh; none with fewer than two.
std::optional<double> gap_between_shells(const Soundness& sound, const Task& task) {
    if (sound.shells < 2 || sound.shells > 400) return std::nullopt;
    std::vector<std::unique_ptr<DistanceTree>> trees;
    for (const TriMesh& body : separate_bodies(sound)) trees.push_back(std::make_unique<DistanceTree>(body));
    double least = std::numeric_limits<double>::infinity();
    for (size_t i = 0; i < trees.size(); ++i)
        for (size_t j = i + 1; j < trees.size() && !task.stopped(); ++j)
            least = std::min(least, closest_pair(*trees[i], *trees[j], least).distance_mm);
    if (!std::isfinite(least)) return std::nullopt;
    return least;
}

std::optional<size_t> count_islands(const Inspection& inspection, const InspectionOptions& options, const Task& task) {
    if (!inspection.soundness.closed || inspection.soundness.kept.empty()) return std::nullopt;
    TriMesh posed = transformed(inspection.soundness.kept, turned_up(options.up));
    LayerOptions layers;
    layers.infill_percent = 100; // only the islands are asked for
    layers.overhang_limit_deg = options.overhang_limit_deg;
    auto plan = plan_layers(posed, {}, layers, task);
    if (!plan) return std::nullopt;
    return plan->islands.size();
}

void print_inspection(const std::string& file, const Inspection& i) {
    const Soundness& s = i.soundness;
    std::cout << file << ": " << s.triangles << " facets, " << s.shells << (s.shells == 1 ? " shell, " : " shells, ")
              << (s.closed ? "closed" : "open") << "\n";
    if (i.box) {
        Vec3 size = i.box->sizes();
        std::cout << "  size " << format_number(size.x()) << " x " << format_number(size.y()) << " x "
                  << format_number(size.z()) << " mm";
        if (i.volume_mm3) std::cout << ", " << format_number(*i.volume_mm3 / 1000) << " cm³";
        std::cout << ", surface " << format_number(i.area_mm2 / 100) << " cm²\n";
    }
    std::cout << "  on the bed " << format_number(i.bed_contact_area_mm2, 1) << " mm², hanging "
              << format_number(i.overhang_area_mm2, 1) << " mm²"
              << (i.fits_bed ? ", fits the bed" : ", too big for the bed") << "\n";
    for (const Finding& f : i.findings)
        std::cout << "  - " << f.says << " (at " << format_number(f.where.x(), 2) << ", "
                  << format_number(f.where.y(), 2) << ", " << format_number(f.where.z(), 2) << ")\n";
    if (i.findings.empty()) std::cout << "  nothing is wrong with it\n";
}

int inspect_command(const InspectArgs& args, const Common& common) {
    InspectionOptions options = args.options;
    if (!parse_numbers(args.up, ',', options.up) || options.up.norm() < 1e-9)
        return usage("--up takes three numbers with commas, such as 0,0,1.");
    if (!parse_numbers(args.bed, 'x', options.bed_mm) || options.bed_mm.minCoeff() <= 0)
        return usage("--bed takes three lengths in mm, such as 220x220x250.");
    options.up.normalize();
    options.walls = true;
    auto read = read_mesh_file(args.file);
    if (!read) return refuse(args.file, read.error(), 3);
    Task task = terminal_task();
    Inspection inspection = inspect(read->mesh, options, task);
    if (task.stopped()) return refuse(args.file, cancelled().value(), 1);
    if (!common.json) {
        print_inspection(args.file, inspection);
        for (const std::string& note : read->notes) std::cout << "  " << note << "\n";
        return 0;
    }
    // What would take long on a huge mesh is left out rather than guessed.
    std::optional<size_t> islands;
    if (inspection.soundness.kept.triangles.size() <= 300'000) islands = count_islands(inspection, options, task);
    std::optional<double> gap = gap_between_shells(inspection.soundness, task);
    if (inspection.walls && inspection.walls->least_gap_mm)
        gap = std::min(gap.value_or(*inspection.walls->least_gap_mm), *inspection.walls->least_gap_mm);
    json result = inspection_json(args.file, read->format, inspection, islands, gap);
    for (const std::string& note : read->notes)
        result["findings"].push_back({{"kind", "file"}, {"count", 1}, {"where", nullptr}, {"says", note}});
    print_json(result);
    return 0;
}

int mend_command(const MendArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    if (!(args.tolerance.value_or(0) >= 0 && args.tolerance.value_or(0) <= 10))
        return usage("--tolerance is 0 to 10 mm.");
    auto read = read_mesh_file(args.in);
    if (!read) return refuse(args.in, read.error(), 3);
    Task task = terminal_task();
    auto mended = mend(read->mesh, {args.tolerance.value_or(MendOptions().tolerance_mm)}, task);
    if (!mended) return refuse(args.in, mended.error(), 1);
    std::optional<double> rebuilt_within;
    if (args.rebuild) {
        auto rebuilt = rebuild_mesh(mended->mesh, {args.tolerance.value_or(0)}, task);
        if (!rebuilt) return refuse(args.in, rebuilt.error(), 1);
        rebuilt_within = rebuilt->within_mm;
        mended->mesh = std::move(rebuilt->mesh);
        mended->holes_left = 0;
        mended->largest_move_mm = std::max(mended->largest_move_mm, rebuilt->largest_mm);
        mended->cures.push_back({"rebuild", 1,
                                 "rebuilt as a closed skin, holes within " +
                                     format_quantity(rebuilt->within_mm, QuantityKind::Length, 2) + " bridged"});
    }
    if (auto failed = write_mesh_file(args.out, mended->mesh, std::filesystem::path(args.out).stem().string()))
        return refuse(args.out, *failed, 1);
    Inspection before = inspect(read->mesh, {}, task), after = inspect(mended->mesh, {}, task);
    if (common.json) {
        json cures = json::array();
        for (const Cure& cure : mended->cures) cures.push_back({{"kind", cure.kind}, {"count", cure.count}});
        json result;
        result["before"] = inspection_json(args.in, read->format, before, count_islands(before, {}, task),
                                           gap_between_shells(before.soundness, task));
        result["after"] = inspection_json(args.out, written_format(args.out)->id, after, count_islands(after, {}, task),
                                          gap_between_shells(after.soundness, task));
        result["cures"] = cures;
        result["volume_change_mm3"] =
            before.volume_mm3 && after.volume_mm3 ? json(*after.volume_mm3 - *before.volume_mm3) : json(nullptr);
        result["largest_move_mm"] = mended->largest_move_mm;
        if (rebuilt_within) result["rebuilt_within_mm"] = *rebuilt_within;
        print_json(result);
        return 0;
    }
    print_inspection(args.in, before);
    for (const Cure& cure : mended->cures) std::cout << "  " << cure.says << "\n";
    if (mended->cures.empty()) {
        const auto& crossing = after.soundness.self_intersecting;
        std::cout << (crossing && crossing->count ? "  " + std::to_string(crossing->count) +
                                                        " facets pass through others and could not be parted\n"
                                                  : std::string("  nothing to mend\n"));
    }
    if (mended->holes_left) std::cout << "  " << mended->holes_left << " holes could not be filled\n";
    print_inspection(args.out, after);
    return 0;
}

namespace {

/// STL and 3MF hold single precision. Corners that fall together there may leave slits: they are closed, so that what
/// was a body stays one. The mesh as it is when that does not help.
TriMesh closed_in_single_precision(const TriMesh& mesh, const Task& task) {
    TriMesh rounded = mesh;
    for (Vec3& v : rounded.vertices) v = v.cast<float>().cast<double>();
    if (is_closed(welded(rounded))) return mesh;
    auto mended = mend(rounded, {.tolerance_mm = 1e-3, .debris_mm = 0, .unite = false}, task);
    if (!mended) return mesh;
    double before = mass_properties(mesh).volume_mm3, after = mass_properties(mended->mesh).volume_mm3;
    bool same = std::fabs(after - before) <= 1e-5 * std::fabs(before) + 1e-3;
    const Soundness sound = check_soundness(mended->mesh, {.self_intersections = false}, task);
    return same && sound.closed && !sound.open_edges ? mended->mesh : mesh;
}

} // namespace

int combine_command(const CombineArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    Operation operation = args.operation == "join"  ? Operation::Join
                          : args.operation == "cut" ? Operation::Cut
                                                    : Operation::Common;
    std::vector<TriMesh> meshes;
    for (const std::string& file : args.files) {
        auto read = read_mesh_file(file);
        if (!read) return refuse(file, read.error(), 3);
        meshes.push_back(std::move(read->mesh));
    }
    Task task = terminal_task();
    auto result = combine_meshes(operation, meshes, task);
    if (!result) return refuse(args.files.front(), result.error(), 1);
    if (written_format(args.out)->single_precision) *result = closed_in_single_precision(*result, task);
    if (auto failed = write_mesh_file(args.out, *result, std::filesystem::path(args.out).stem().string()))
        return refuse(args.out, *failed, 1);
    Inspection inspection = inspect(*result, {}, task);
    if (common.json)
        print_json(inspection_json(args.out, written_format(args.out)->id, inspection,
                                   count_islands(inspection, {}, task),
                                   gap_between_shells(inspection.soundness, task)));
    else
        print_inspection(args.out, inspection);
    return 0;
}

int split_command(const SplitArgs& args, const Common& common) {
    for (const std::string& out : {args.out_a, args.out_b})
        if (!written_format(out)) return usage("the outputs must end in " + written_titles() + ".");
    Eigen::Vector4d numbers;
    if (!parse_numbers(args.plane, ',', numbers) || !numbers.allFinite() || numbers.head<3>().norm() < 1e-9)
        return usage("--plane takes four numbers with commas, such as 0,0,1,12.5.");
    auto read = read_mesh_file(args.in);
    if (!read) return refuse(args.in, read.error(), 3);
    Task task = terminal_task();
    Vec3 n = numbers.head<3>().normalized();
    // Everything on the side the normal points to: a box larger than the mesh, standing on the plane.
    Box3 box = bounding_box(read->mesh);
    double reach = 2 * (box.diagonal().norm() + box.center().norm() + std::fabs(numbers[3])) + 10;
    Transform place = frame_along(n);
    place.translation() = numbers[3] * n;
    TriMesh side = transformed(box_mesh(Vec3(-reach, -reach, 0), Vec3(reach, reach, reach)), place);
    std::vector<TriMesh> halves;
    for (Operation operation : {Operation::Common, Operation::Cut}) {
        auto half = combine_meshes(operation, {read->mesh, side}, task);
        if (!half || half->empty()) {
            Problem why{ProblemCode::Geometry, "The plane misses the mesh: nothing is split.", "Move the plane."};
            if (!half && half.error().code != ProblemCode::NothingLeft) why = half.error();
            return refuse(args.in, why, 1);
        }
        const std::string& out = halves.empty() ? args.out_a : args.out_b;
        halves.push_back(written_format(out)->single_precision ? closed_in_single_precision(*half, task)
                                                               : std::move(*half));
    }
    json answer;
    for (int k = 0; k < 2; ++k) {
        const std::string& out = k ? args.out_b : args.out_a;
        if (auto failed = write_mesh_file(out, halves[size_t(k)], std::filesystem::path(out).stem().string())) {
            std::error_code error;
            if (k) std::filesystem::remove(args.out_a, error); // both or none
            return refuse(out, *failed, 1);
        }
        Inspection inspection = inspect(halves[size_t(k)], {}, task);
        if (common.json)
            answer[k ? "b" : "a"] =
                inspection_json(out, written_format(out)->id, inspection, count_islands(inspection, {}, task),
                                gap_between_shells(inspection.soundness, task));
        else
            print_inspection(out, inspection);
    }
    if (common.json) print_json(answer);
    return 0;
}

/// Exact bodies stay exact.
static int convert_exact(const ConvertArgs& args, const Common& common) {
    auto bytes = read_file(args.in);
    if (!bytes) return refuse(args.in, bytes.error(), 3);
    auto read = read_objects(std::filesystem::path(args.in).filename().string(), *bytes);
    if (!read) return refuse(args.in, read.error(), 3);
    const std::string title = std::filesystem::path(args.out).stem().string();
    if (auto failed = write_objects(args.out, read->objects, title)) return refuse(args.out, *failed, 1);
    auto back = read_mesh_file(args.out);
    if (!back) return refuse(args.out, back.error(), 1);
    Inspection inspection = inspect(back->mesh, {}, terminal_task());
    if (common.json)
        print_json(inspection_json(args.out, written_format(args.out)->id, inspection, std::nullopt,
                                   gap_between_shells(inspection.soundness, {})));
    else
        print_inspection(args.out, inspection);
    return 0;
}

int convert_command(const ConvertArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    if (!(args.deviation >= 1e-4 && args.deviation <= 10)) return usage("--deviation is 0.0001 to 10 mm.");
    if (written_format(args.out)->content == FileFormat::Content::Exact) return convert_exact(args, common);
    auto bytes = read_file(args.in);
    if (!bytes) return refuse(args.in, bytes.error(), 3);
    auto read = read_objects(std::filesystem::path(args.in).filename().string(), *bytes);
    if (!read) return refuse(args.in, read.error(), 3);
    const FileFormat& format = *written_format(args.out);
    TriMesh mesh; // all of it, for what is read back
    size_t facet = 0;
    for (FileObject& object : read->objects) {
        object.mesh = object.triangles();
        object.exact.reset();
        for (size_t i = 0; i < object.mesh.triangles.size(); ++i, ++facet)
            for (int k = 0; k < 3; ++k)
                if (!object.mesh.corner(i, k).allFinite())
                    return refuse(args.in,
                                  {ProblemCode::Geometry,
                                   "Facet " + std::to_string(facet + 1) + " has a corner that is no number.",
                                   "Mend it first."},
                                  1);
        if (format.shares_corners) object.mesh = welded(object.mesh); // some formats share corners between facets
        if (format.holds_many)
            std::erase_if(object.mesh.triangles, [](const Triangle& t) {
                return t[0] == t[1] || t[1] == t[2] || t[2] == t[0];
            }); // such formats forbid them
        object.mesh.tags.clear();
        append(mesh, object.mesh);
    }
    if (mesh.empty()) return refuse(args.in, {ProblemCode::File, "It holds no facets.", "Choose another file."}, 3);
    const std::string title = std::filesystem::path(args.out).stem().string();
    if (read->objects.size() == 1) read->objects[0].name = title;
    if (auto failed = write_objects(args.out, read->objects, title)) return refuse(args.out, *failed, 1);
    auto back = read_mesh_file(args.out);
    if (!back) return refuse(args.out, back.error(), 1);
    ReadBack compared = compare_meshes(args.out, "", back->mesh, mesh);
    if (common.json) {
        Inspection inspection = inspect(back->mesh, {}, terminal_task());
        print_json(inspection_json(args.out, written_format(args.out)->id, inspection, std::nullopt,
                                   gap_between_shells(inspection.soundness, {})));
    } else {
        std::cout << args.out << ": " << compared.says << "\n";
    }
    return 0;
}

json support_figures_json(const SupportFigures& figures) {
    return {{"supports", figures.supports},
            {"touching", figures.touching},
            {"standing_on_part", figures.standing_on_part},
            {"volume_mm3", figures.volume_mm3},
            {"unsupported_area_mm2", figures.unsupported_area_mm2}};
}

json layers_json(const LayerPlan& plan, double layer_height_mm) {
    const size_t raft = size_t(plan.raft_layers);
    const double raft_height = double(raft) * layer_height_mm;
    json islands = json::array(), hanging = json::array();
    for (const Island& island : plan.islands)
        islands.push_back({{"layer", island.layer + 1 + raft},
                           {"z_mm", island.z_mm + raft_height},
                           {"area_mm2", island.area_mm2},
                           {"at", {island.at.x(), island.at.y()}}});
    for (size_t i = 0; i < plan.layers.size(); ++i)
        if (plan.layers[i].unsupported_mm2 > 0)
            hanging.push_back({{"layer", i + 1 + raft},
                               {"z_mm", plan.layers[i].z_mm + raft_height},
                               {"area_mm2", plan.layers[i].unsupported_mm2}});
    return {{"layers", plan.layers.size() + raft},
            {"height_mm", plan.height_mm + raft_height},
            {"time_s", plan.time_s},
            {"filament_mm", plan.filament_mm},
            {"mass_g", plan.mass_g},
            {"energy_kwh", plan.energy_kwh},
            {"first_layer_area_mm2", plan.layers.empty() ? 0.0 : plan.layers[0].area_mm2},
            {"islands", islands},
            {"hanging", hanging},
            {"pauses", json::array()}};
}

std::optional<Problem> write_plan(const TriMesh& posed, const Supports& supports, const LayerOptions& options,
                                  const GcodeOptions& how, const std::string& path, const Task& task) {
    auto lines = part_lines(posed, supports.mesh, options, task, supports.brim);
    if (!lines) return lines.error();
    auto text = write_gcode(*lines, how, task);
    if (!text) return text.error();
    return write_file_safely(path, *text);
}

void tell_motion(const LineTimes& times, json& object) {
    object["time_motion_s"] = number_json(times.total_s());
    json parts{{"laying", times.laying_s},
               {"hops", times.hops_s},
               {"drawing_back", times.drawing_back_s},
               {"cooling", times.cooling_s},
               {"layer_changes", times.changes_s},
               {"start", times.start_s}};
    for (size_t k = 0; k < line_kinds; ++k)
        if (times.by_kind_s[k] > 0) parts["by_kind"][line_kind_words(LineKind(k))] = times.by_kind_s[k];
    object["time_motion_parts_s"] = parts;
}

int layers_command(const LayersArgs& args, const Common& common) {
    if (is_project(args.file)) return layers_of_project(args, common);
    if (!(args.layer_height > 0.005 && args.layer_height <= 5) || !(args.first_layer > 0.005 && args.first_layer <= 5))
        return usage("layer heights are 0.01 to 5 mm.");
    if (args.walls < 0 || args.walls > 100 || !(args.infill >= 0 && args.infill <= 100) || args.raft_layers < 0 ||
        args.raft_layers > 100)
        return usage("walls are 0 to 100, infill 0 to 100 %, raft layers 0 to 100.");
    const auto fill = infill_called(args.fill);
    if (!fill) return usage("an infill is lines, grid or gyroid.");
    auto read = read_mesh_file(args.file);
    if (!read) return refuse(args.file, read.error(), 3);
    Task task = terminal_task();
    Soundness sound = check_soundness(read->mesh, {.self_intersections = false}, task);
    if (!sound.closed)
        return refuse(args.file,
                      {ProblemCode::Geometry,
                       "It is not closed: " + std::to_string(sound.open_edges.count) + " open edges.",
                       "Mend it first."},
                      1);
    LayerOptions options;
    options.heights = {args.layer_height, args.first_layer};
    options.walls = args.walls;
    options.infill_percent = args.infill;
    options.raft_layers = args.raft_layers;
    options.infill = *fill;
    auto plan = plan_layers(sound.kept, {}, options, task);
    if (!plan) return refuse(args.file, plan.error(), 1);
    auto times = motion_times(sound.kept, {}, options, task);
    if (!times) return refuse(args.file, times.error(), 1);
    if (!args.gcode.empty())
        if (auto wrong = write_plan(sound.kept, {}, options, {args.file, options.material.filament_mm, {}, {}},
                                    args.gcode, task))
            return refuse(args.gcode, *wrong, 1);
    if (common.json) {
        json out = layers_json(*plan, args.layer_height);
        tell_motion(*times, out);
        print_json(out);
        return 0;
    }
    const size_t raft = size_t(plan->raft_layers);
    const double raft_height = double(raft) * args.layer_height;
    std::cout << args.file << ": " << plan->layers.size() + raft << " layers, "
              << format_number(plan->height_mm + raft_height, 2) << " mm high, about " << format_duration(plan->time_s)
              << ", " << format_number(plan->mass_g, 1) << " g, " << format_number(plan->filament_mm / 1000, 2)
              << " m of filament\n";
    std::cout << "  " << format_duration(times->total_s()) << " by the motion of the printer's head (assumed)\n";
    for (const Island& island : plan->islands)
        std::cout << "  layer " << island.layer + 1 + raft << " (z " << format_number(island.z_mm + raft_height, 2)
                  << " mm): " << format_number(island.area_mm2, 2) << " mm² start in mid-air at "
                  << format_number(island.at.x(), 1) << ", " << format_number(island.at.y(), 1) << "\n";
    return 0;
}

int supports_command(const SupportsArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    const SupportOptions options = with_sizes({}, args);
    if (!(options.overhang_limit_deg >= 0 && options.overhang_limit_deg <= 90))
        return usage("the limit is 0 to 90 degrees.");
    if (!(options.contact_gap_mm >= 0 && options.contact_gap_mm <= 5)) return usage("the gap is 0 to 5 mm.");
    if (auto wrong = check_supports(options)) return usage(wrong->text());
    if (is_project(args.in)) return supports_of_project(args, common);
    auto read = read_mesh_file(args.in);
    if (!read) return refuse(args.in, read.error(), 3);
    Task task = terminal_task();
    Soundness sound = check_soundness(read->mesh, {.self_intersections = false}, task);
    if (!sound.closed)
        return refuse(args.in,
                      {ProblemCode::Geometry,
                       "It is not closed: " + std::to_string(sound.open_edges.count) + " open edges.",
                       "Mend it first."},
                      1);
    double floor = bounding_box(sound.kept).min().z();
    Transform down = Transform::Identity();
    down.translate(Vec3(0, 0, -floor));
    const TriMesh posed = transformed(sound.kept, down);
    Supports supports = make_supports(posed, options, task);
    if (!supports.count())
        return refuse(args.in,
                      {ProblemCode::Geometry, "Nothing hangs that a support could carry.", "No file was written."}, 1);
    TriMesh mesh = transformed(supports.mesh, down.inverse());
    if (auto failed = write_mesh_file(args.out, mesh, "supports")) return refuse(args.out, *failed, 1);
    if (common.json) {
        print_json(support_figures_json(support_figures(posed, supports, options)));
    } else {
        std::cout << args.out << ": " << supports.says_how_many() << ", "
                  << format_number(mass_properties(mesh).volume_mm3 / 1000, 2) << " cm³\n";
    }
    return 0;
}

} // namespace lp::cli
