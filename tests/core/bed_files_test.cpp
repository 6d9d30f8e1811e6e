// What goes to the slicer with the parts: copies as build items, where it is printed solid, settings, a picture.
// Against 3MF core specification 1.3: 3.2 objects (type "other"), 3.4 build items and part numbers, 2 parts of a
// package.
#include "formats/threemf.h"
#include "handoff/export_project.h"
#include "handoff/picture_png.h"
#include "made_project.h"
#include "mesh/soundness.h"
#include "packages.h"
#include "test_meshes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

size_t times(const std::string& in, const std::string& what) {
    size_t n = 0;
    for (size_t at = in.find(what); at != std::string::npos; at = in.find(what, at + 1)) ++n;
    return n;
}

/// Three feet with a boss that is printed solid, layers finer at its top; one plate.
Made feet() {
    Made m = make_parts({{"Foot",
                          {block(40, 30, 6), step("cylinder", {{"diameter", 16}, {"height", 20}}, "boss"),
                           step("print_solid", {{"what", "boss"}, {"around", "1 mm"}})}},
                         {"Plate", json::array({block(60, 40, 5)})}});
    EXPECT_EQ(m.says(), "");
    auto project = std::make_shared<Project>(*m.project);
    auto foot = std::make_shared<Part>(*project->parts[0]);
    foot->quantity = 3;
    foot->bands = {{"15 mm", "20 mm", "0.1 mm"}};
    foot->stops = {{.at = "12 mm", .why = "nut"}};
    project->parts[0] = foot;
    m.project = project;
    m.evaluation.project = project;
    return m;
}

} // namespace

TEST(BedFiles, APaperGoesWithThemOrNothingDoes) {
    Folder folder;
    const Made m = feet();
    ExportOptions options{.folder = folder.path / "out", .formats = {"3mf", "stl"}};
    options.papers = {{"page.pdf", [](const Task&) -> Expected<std::string> { return "%PDF-page"; }}};
    auto back = export_project(m.evaluation, options);
    ASSERT_TRUE(back) << back.error().text();
    EXPECT_EQ(back->back().file, folder.path / "out/page.pdf");
    EXPECT_TRUE(back->back().same);
    EXPECT_EQ(read_file(folder.path / "out/page.pdf").value_or(""), "%PDF-page");
    // One that cannot be made takes the files with it.
    options.folder = folder.path / "none";
    options.papers[0].make = [](const Task&) -> Expected<std::string> {
        return problem(ProblemCode::Geometry, "The page is not made.", "");
    };
    auto failed = export_project(m.evaluation, options);
    ASSERT_FALSE(failed);
    EXPECT_EQ(failed.error().sentence, "The page is not made.");
    EXPECT_FALSE(std::filesystem::exists(options.folder));
    // The paper alone.
    options.formats.clear();
    options.papers[0].make = [](const Task&) -> Expected<std::string> { return "x"; };
    EXPECT_EQ(export_project(m.evaluation, options)->size(), 1u);
}

TEST(BedFiles, CopiesAreOneShapeBuiltSeveralTimes) {
    Folder folder;
    const Made m = feet();
    auto back = export_project(m.evaluation, {.folder = folder.path, .formats = {"3mf"}});
    ASSERT_TRUE(back) << back.error().text();
    ASSERT_EQ(back->size(), 4u);
    for (const ReadBack& one : *back) EXPECT_TRUE(one.same) << one.name << ": " << one.says;
    const auto file = back->front().file;
    const std::string model = entry(file, "3D/3dmodel.model");
    EXPECT_EQ(times(model, "<object "), 3u) << "a foot, a plate, and where the foot is solid";
    EXPECT_EQ(times(model, "<item "), 4u);
    auto read = read_3mf(*read_file(file));
    ASSERT_TRUE(read) << read.error().text();
    std::set<std::string> names;
    Box3 before;
    for (const FileObject& object : *read) {
        names.insert(object.name);
        const Box3 box = bounding_box(object.mesh);
        EXPECT_NEAR(box.min().z(), 0, 1e-4);
        EXPECT_TRUE(before.isEmpty() || !before.intersects(box)) << object.name << " stands in another";
        before = box;
    }
    EXPECT_EQ(names, (std::set<std::string>{"Foot 1", "Foot 2", "Foot 3", "Plate"}));
}

TEST(BedFiles, WhereItIsSolidTravelsAsAnObjectThatIsNotBuilt) {
    Folder folder;
    const Made m = feet();
    auto items = export_items(m.evaluation, 0.01);
    ASSERT_TRUE(items);
    const TriMesh& filled = items->front().filled;
    ASSERT_TRUE(check_soundness(filled).closed);
    // A cylinder of 16, a millimetre more round it, 20 high; layers are cut half-way up, so its height is whole.
    const double closed_form = pi * 9 * 9 * 20;
    EXPECT_NEAR(mass_properties(filled).volume_mm3, closed_form, 0.004 * closed_form);
    EXPECT_NEAR(bounding_box(filled).max().z(), 20, 1e-6);
    EXPECT_TRUE(items->back().filled.empty());

    auto back = export_project(m.evaluation, {.folder = folder.path, .formats = {"3mf"}});
    ASSERT_TRUE(back) << back.error().text();
    const std::string model = entry(back->front().file, "3D/3dmodel.model");
    EXPECT_EQ(times(model, "type=\"other\""), 1u);
    const size_t at = model.find("Foot printed solid"), object = model.rfind("<object ", at);
    ASSERT_NE(at, std::string::npos);
    const size_t id = model.find("id=\"", object) + 4;
    EXPECT_EQ(times(model, "objectid=\"" + model.substr(id, model.find('"', id) - id) + "\""), 0u) << "it is not built";
}

TEST(BedFiles, SettingsOfEachPartTravelInAPartOfThePackageOfTheirOwn) {
    Folder folder;
    const Made m = feet();
    auto back = export_project(m.evaluation, {.folder = folder.path, .formats = {"3mf"}});
    ASSERT_TRUE(back) << back.error().text();
    const auto file = back->front().file;
    const json settings = json::parse(entry(file, "Metadata/print-settings.json"), nullptr, false);
    ASSERT_TRUE(settings.is_object());
    EXPECT_EQ(settings["printer"]["bed_mm"], json::array({220.0, 220.0, 250.0}));
    ASSERT_EQ(settings["objects"].size(), 2u);
    const json& foot = settings["objects"][0];
    EXPECT_EQ(foot["name"], "Foot");
    EXPECT_EQ(foot["copies"], 3);
    EXPECT_EQ(foot["infill_percent"], 15.0);
    EXPECT_EQ(foot["solid_within"], "Foot printed solid");
    EXPECT_EQ(foot["layers"]["bands"][0]["height_mm"], 0.1);
    EXPECT_EQ(foot["stops"][0]["before_layer"], 61) << "60 layers of 0.2 are 12 mm";
    EXPECT_FALSE(settings["objects"][1].contains("solid_within"));
    // The package says what its parts are: Open Packaging, ECMA-376 part 2, content types and relationships.
    const std::string types = entry(file, "[Content_Types].xml");
    EXPECT_NE(types.find("Extension=\"json\""), std::string::npos) << types;
    EXPECT_NE(types.find("Extension=\"png\""), std::string::npos) << types;
    EXPECT_NE(entry(file, "3D/_rels/3dmodel.model.rels").find(settings_relationship), std::string::npos);
}

TEST(BedFiles, APictureOfTheBedIsTheFilesOwn) {
    Folder folder;
    const Made m = feet();
    auto back = export_project(m.evaluation, {.folder = folder.path, .formats = {"3mf"}});
    ASSERT_TRUE(back) << back.error().text();
    const std::string rels = entry(back->front().file, "_rels/.rels");
    const size_t kind = rels.find("http://schemas.openxmlformats.org/package/2006/relationships/metadata/thumbnail");
    ASSERT_NE(kind, std::string::npos) << rels;
    const size_t element = rels.rfind('<', kind), target = rels.find("Target=\"", element) + 8;
    const std::string path = rels.substr(target + 1, rels.find('"', target) - target - 1);
    const std::string png = entry(back->front().file, path.c_str());
    ASSERT_GT(png.size(), 500u) << path;
    EXPECT_EQ(png.substr(1, 3), "PNG"); // PNG specification, 5.2
    EXPECT_EQ(png_of({}), "");
}

TEST(BedFiles, ManyCopiesCostOneShape) {
    Folder folder;
    const Made m = make(json::array({step("cylinder", {{"diameter", 8}, {"height", 6}})}));
    auto project = std::make_shared<Project>(*m.project);
    auto part = std::make_shared<Part>(*project->parts[0]);
    Evaluation evaluation = m.evaluation;
    auto size_with = [&](int quantity) {
        part->quantity = quantity;
        project->parts[0] = std::make_shared<Part>(*part);
        evaluation.project = project;
        auto back = export_project(evaluation, {.folder = folder.path, .formats = {"3mf", "stl"}});
        EXPECT_TRUE(back && std::all_of(back->begin(), back->end(), [](const ReadBack& b) { return b.same; }));
        return back ? std::filesystem::file_size(back->front().file) : 0;
    };
    const auto one = size_with(1), hundred = size_with(100);
    EXPECT_TRUE(std::filesystem::exists(folder / "P.stl"));
    EXPECT_TRUE(std::filesystem::exists(folder / "P-100x.stl")) << "so many are to be printed";
    EXPECT_LT(hundred, 3 * one) << "the picture grows, the shape is there once";
}
