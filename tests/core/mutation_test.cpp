// Every reader on damaged files: bytes changed, cut off, doubled, put in. Whatever comes, it ends in a result or in a
// sentence, within its time. tools/mutate runs two thousand of them under the sanitizers.
#include "base/files.h"
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "formats/obj.h"
#include "formats/stl.h"
#include "made_project.h"
#include "project/archive.h"
#include "project/project_json.h"
#include "shape/step_file.h"
#include "test_meshes.h"
#include <chrono>
#include <cstdlib>
#include <fstream>
#include <gtest/gtest.h>
#include <random>

using namespace lp;
using test::cube;

namespace {

constexpr unsigned fixed_seed = 20261127;
constexpr auto longest = std::chrono::seconds(10);

struct Sample {
    std::string name, bytes;
};

const char* a_drawing = R"svg(<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="50mm" viewBox="0 0 80 50">
<path d="M5 5 h60 v30 a6 6 0 0 1 -12 0 q-10 -12 -20 0 T20 35 C 12 40 8 30 5 35 z M20 12 h8 v6 h-8 z"/>
<circle cx="60" cy="12" r="4"/><g transform="rotate(20) scale(1.5)"><rect x="10" y="2" width="9" height="5" rx="1"/></g>
<polygon points="1,1 4,1 3,5"/></svg>)svg";
const char* a_plan =
    "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0.0\n20\n0."
    "0\n11\n40.0\n21\n0.0\n"
    "0\nARC\n8\n0\n10\n40.0\n20\n10.0\n40\n10.0\n50\n270.0\n51\n90.0\n0\nLWPOLYLINE\n8\n0\n90\n3\n70\n1\n10\n1."
    "0\n20\n1.0\n10\n9.0\n20\n1.0\n"
    "42\n0.4\n10\n5.0\n20\n7.0\n0\nCIRCLE\n8\n0\n10\n20.0\n20\n20.0\n40\n3.5\n0\nENDSEC\n0\nEOF\n";
const char* a_project =
    R"({"format":"loose-peg","version":1,"name":"Rain gauge","parameters":{"bore":"8.6 mm","turn":"30 deg"},
"parts":[{"name":"Peg","steps":[{"kind":"cylinder","name":"stem","fields":{"diameter":"bore","height":30}},{"kind":"fillet","fields":{"edges":"of top of stem","radius":1}}]},
{"name":"Plate","quantity":2,"steps":[{"kind":"block","fields":{"size_x":40}},{"kind":"cut_with","fields":{"tool":"Peg","fit":"slide"}}],
"variants":[{"name":"wide","numbers":{"bore":"9 mm"}}]}],"contacts":[{"a":"Peg","b":"Plate","fit":"slide"}],
"movements":[{"id":900,"moving":"Peg","kind":"legs","legs":"slide 6, turn 30"}],"fits":[{"name":"slide","gap_mm":0.3}]})";

std::vector<Sample> samples() {
    std::vector<Sample> all{{"a.stl", write_stl_binary(test::sphere(9, 8))},
                            {"b.stl", write_stl_ascii(cube(20), "cube")},
                            {"d.svg", a_drawing},
                            {"p.dxf", a_plan},
                            {"project.json", a_project}};
    test::Folder folder;
    for (const FileFormat& format : file_formats())
        if (format.write) {
            const auto path = folder / ("w." + format.endings.front());
            if (!write_mesh_file(path, test::sphere(9, 8), "ball"))
                all.push_back({path.filename().string(), read_file(path).value()});
        }
    const auto block = test::make(nlohmann::json::array({test::block(10, 20, 30)}));
    all.push_back({"b.step", write_step_file({{"block", block.body()}}, "t").value()});
    auto project = project_from_text(a_project);
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    if (project && !save_project(folder / "s.loosepeg", History(std::make_shared<const Project>(*project))))
        all.push_back({"s.loosepeg", read_file(folder / "s.loosepeg").value()});
    return all;
}

std::string damaged(std::string bytes, std::mt19937& random) {
    auto at = [&] { return bytes.empty() ? size_t(0) : size_t(random() % bytes.size()); };
    static const char* words[] = {"1e999", "-1", "4294967295", "nan", "\xff\xfe",
                                  "]]]]",  "<",  "\"",         "0",   "99999999999999999999"};
    for (unsigned k = 0, n = 1 + random() % 4; k < n && !bytes.empty(); ++k) switch (random() % 6) {
        case 0:
            bytes[at()] = char(random());
            break;
        case 1:
            bytes.resize(at());
            break;
        case 2:
            bytes.insert(at(), words[random() % std::size(words)]);
            break;
        case 3: {
            const size_t from = at();
            bytes.insert(at(), bytes.substr(from, random() % 200));
            break;
        }
        case 4:
            bytes.erase(at(), random() % 60);
            break;
        default: // a number becomes another
            for (size_t i = at(), left = 40; i < bytes.size() && left--; ++i)
                if (bytes[i] >= '0' && bytes[i] <= '9') {
                    bytes[i] = char('0' + random() % 10);
                    break;
                }
        }
    return bytes;
}

void read(const Sample& file, const test::Folder& folder) {
    auto fine = [](const auto& result) {
        if (!result) {
            EXPECT_FALSE(result.error().sentence.empty());
        }
    };
    const std::string ending = ending_of(file.name);
    if (ending == "json") return fine(project_from_text(file.bytes));
    if (ending == "loosepeg") {
        std::ofstream(folder / file.name, std::ios::binary) << file.bytes;
        return fine(open_project(folder / file.name));
    }
    if (ending == "svg" || ending == "dxf") return fine(read_flat(file.name, file.bytes));
    fine(read_objects(file.name, file.bytes));
}

} // namespace

TEST(Mutation, EveryReaderEndsInAResultOrASentence) {
    const char* asked = std::getenv("LOOSE_PEG_MUTATIONS");
    const unsigned count = asked ? unsigned(std::atoi(asked)) : 1000;
    std::mt19937 random(fixed_seed);
    test::Folder folder;
    const auto all = samples();
    ASSERT_GE(all.size(), 8u);
    for (const Sample& file : all) read(file, folder); // as they are, too
    for (unsigned k = 0; k < count; ++k) {
        const Sample& of = all[k % all.size()];
        const Sample file{of.name, damaged(of.bytes, random)};
        const auto start = std::chrono::steady_clock::now();
        read(file, folder);
        EXPECT_LT(std::chrono::steady_clock::now() - start, longest) << of.name << ", number " << k;
    }
}
