// arrange: meshes laid out on beds, a 3MF a bed.
#include "base/quantity.h"
#include "base/text.h"
#include "bed/arrange.h"
#include "cli/commands.h"
#include "formats/formats.h"
#include <iostream>

namespace lp::cli {

using nlohmann::json;

namespace {

struct Asked {
    std::string file;
    int copies = 1;
};

/// "bracket.stl*4". A file that is called so is meant itself.
std::optional<Asked> asked_for(const std::string& word) {
    std::error_code error;
    const size_t star = word.rfind('*');
    if (star == std::string::npos || std::filesystem::exists(word, error)) return Asked{word, 1};
    const std::string number = word.substr(star + 1);
    if (star == 0 || number.empty() || number.size() > 4 ||
        number.find_first_not_of("0123456789") != std::string::npos || std::stoi(number) < 1)
        return std::nullopt;
    return Asked{word.substr(0, star), std::stoi(number)};
}

/// What stands on one bed, named apart from each other.
std::vector<FileObject> objects_on(size_t bed, const Arranged& found, const std::vector<Asked>& of_item,
                                   const std::vector<ArrangeItem>& items) {
    std::vector<FileObject> objects;
    std::map<std::string, int> named;
    for (size_t i = 0; i < items.size(); ++i) {
        if (!found.spots[i] || found.spots[i]->bed != bed) continue;
        std::string name = std::filesystem::path(of_item[i].file).stem().string();
        if (const int n = ++named[name]; n > 1 || of_item[i].copies > 1) name.append(" ").append(std::to_string(n));
        objects.push_back(
            {.name = name, .mesh = transformed(*items[i].posed, placed_at(*items[i].posed, *found.spots[i]))});
    }
    return objects;
}

json arrangement_json(const Arranged& found, const std::vector<Asked>& of_item) {
    json beds = json::array(), left_out = json::array();
    for (size_t bed = 0; bed < found.beds; ++bed) {
        json items = json::array();
        for (size_t i = 0; i < of_item.size(); ++i)
            if (found.spots[i] && found.spots[i]->bed == bed)
                items.push_back({{"file", of_item[i].file},
                                 {"at", {found.spots[i]->at.x(), found.spots[i]->at.y()}},
                                 {"turn_deg", found.spots[i]->turn_deg}});
        beds.push_back({{"items", std::move(items)}, {"used_share", found.used_share[bed]}});
    }
    for (size_t i = 0; i < of_item.size(); ++i)
        if (!found.spots[i]) left_out.push_back(of_item[i].file);
    return {{"beds", std::move(beds)}, {"left_out", std::move(left_out)}};
}

/// All beds or none.
int write_beds(const std::string& out, const std::vector<std::vector<FileObject>>& beds) {
    std::vector<std::filesystem::path> written;
    for (size_t b = 0; b < beds.size(); ++b) {
        const std::filesystem::path file = out + "-" + std::to_string(b + 1) + ".3mf";
        auto failed = write_objects(file, beds[b], std::filesystem::path(out).stem().string());
        if (!failed) {
            written.push_back(file);
            continue;
        }
        std::error_code error;
        for (const auto& gone : written) std::filesystem::remove(gone, error);
        return refuse(file.string(), *failed, 3);
    }
    return 0;
}

} // namespace

int arrange_command(const ArrangeArgs& args, const Common& common) {
    ArrangeOptions options;
    options.spacing_mm = args.spacing;
    if (!parse_numbers(args.bed, 'x', options.bed_mm)) return usage("--bed takes two lengths in mm, such as 220x220.");
    std::string out = args.out;
    if (out.size() > 4 && out.ends_with(".3mf")) out.resize(out.size() - 4);
    std::map<std::string, TriMesh> meshes;
    std::vector<Asked> of_item;
    std::vector<ArrangeItem> items;
    for (const std::string& word : args.files) {
        auto asked = asked_for(word);
        if (!asked) return usage("\"" + word + "\": a file, or a file and how many, such as foot.stl*4.");
        auto [mesh, fresh] = meshes.try_emplace(asked->file);
        if (fresh) {
            auto read = read_mesh_file(asked->file);
            if (!read) return refuse(asked->file, read.error(), 3);
            if (read->mesh.empty())
                return refuse(asked->file, {ProblemCode::Missing, "There is nothing in it.", "Give a mesh."}, 3);
            mesh->second = std::move(read->mesh);
        }
        for (int k = 0; k < asked->copies; ++k) {
            of_item.push_back(*asked);
            items.push_back({.posed = &mesh->second});
        }
    }
    Task task = terminal_task();
    auto found = arrange(items, options, task);
    if (!found)
        return found.error().code == ProblemCode::Range ? usage(found.error().text()) : refuse(out, found.error(), 1);
    if (found->beds == 0)
        return refuse(
            of_item.front().file,
            {ProblemCode::Range, "Nothing fits the bed, however it is turned.", "Split it, or give a larger bed."}, 1);
    std::vector<std::vector<FileObject>> beds;
    for (size_t b = 0; b < found->beds; ++b) beds.push_back(objects_on(b, *found, of_item, items));
    if (int status = write_beds(out, beds)) return status;
    if (common.json) {
        print_json(arrangement_json(*found, of_item));
        return 0;
    }
    for (size_t b = 0; b < beds.size(); ++b)
        std::cout << out << "-" << b + 1 << ".3mf: " << counted(beds[b].size(), "thing", "things") << ", "
                  << format_number(100 * found->used_share[b], 0) << " % of the bed\n";
    for (size_t i = 0; i < of_item.size(); ++i)
        if (!found->spots[i]) std::cout << "  - " << of_item[i].file << " is larger than the bed: left out\n";
    return 0;
}

} // namespace lp::cli
