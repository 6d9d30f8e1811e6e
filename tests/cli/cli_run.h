// The built program run as scripts run it, in a folder of its own.
#pragma once
#include "base/files.h"
#include "formats/formats.h"
#include "formats/stl.h"
#include "test_meshes.h"
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <set>
#include <sys/wait.h>

namespace lp::test {

using nlohmann::json;

struct Ran {
    int status = -1;
    std::string out, err;
    json parsed() const { return json::parse(out, nullptr, false); }
};

class Cli : public ::testing::Test {
  protected:
    Ran run(const std::string& arguments) {
        std::string command =
            std::string("cd ") + folder.path.string() + " && " + CLI + " " + arguments + " >out.txt 2>err.txt";
        int code = std::system(command.c_str());
        Ran ran;
        ran.status = WIFEXITED(code) ? WEXITSTATUS(code) : -1;
        ran.out = *read_file(folder / "out.txt");
        ran.err = *read_file(folder / "err.txt");
        return ran;
    }
    void put(const std::string& name, const std::string& bytes) {
        std::ofstream(folder / name, std::ios::binary) << bytes;
    }
    void put(const std::string& name, const TriMesh& mesh) { put(name, write_stl_binary(mesh)); }
    bool there(const std::string& name) { return std::filesystem::exists(folder / name); }
    test::Folder folder;
};

inline const std::set<std::string> inspect_keys{"file",
                                                "format",
                                                "unit",
                                                "unit_guess",
                                                "triangles",
                                                "vertices",
                                                "volume_mm3",
                                                "area_mm2",
                                                "bbox_min",
                                                "bbox_max",
                                                "closed",
                                                "shells",
                                                "open_edges",
                                                "holes",
                                                "nonmanifold_edges",
                                                "nonmanifold_vertices",
                                                "flipped_faces",
                                                "inconsistent_edges",
                                                "inside_out",
                                                "nonfinite_faces",
                                                "degenerate_faces",
                                                "duplicate_faces",
                                                "self_intersecting_faces",
                                                "overlapping_shells",
                                                "inner_shells",
                                                "cavities",
                                                "min_wall_mm",
                                                "thin_area_mm2",
                                                "overhang_area_mm2",
                                                "bridge_max_span_mm",
                                                "islands",
                                                "bed_contact_area_mm2",
                                                "tips_over",
                                                "fits_bed",
                                                "centre_of_mass",
                                                "min_gap_mm",
                                                "findings"};

/// Names of a JSON object's entries.
inline std::set<std::string> keys_of(const json& object) {
    std::set<std::string> keys;
    for (const auto& [key, value] : object.items()) keys.insert(key);
    return keys;
}

} // namespace lp::test
