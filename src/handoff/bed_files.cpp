#include "handoff/bed_files.h"
#include "base/quantity.h"
#include "handoff/picture_png.h"
#include "handoff/print_settings.h"
#include <algorithm>
#include <cstdlib>
#include <map>
#include <span>

namespace lp {
namespace {

/// What the files were made for.
std::string settings_words(const PrinterCard& card) {
    return "Made for " + card.name + ": nozzle " + format_quantity(card.nozzle_mm, QuantityKind::Length) +
           ", layers of " + format_quantity(card.layer_height_mm, QuantityKind::Length) + ", the first " +
           format_quantity(card.first_layer_mm, QuantityKind::Length) + ".";
}

BedPlan plan_in_place(const std::vector<ExportItem>& items) {
    BedPlan plan;
    for (const ExportItem& item : items) plan.items.push_back({.part = item.part});
    return plan;
}

/// What one file holds.
class BedFile {
  public:
    explicit BedFile(const PrinterCard& printer) : printer_(&printer) {}

    /// One more of a part. `number`: " 2" where there are several; else empty.
    void add(const ExportItem& item, const std::string& number, const Transform& stand, bool with_settings) {
        const bool first = objects_.empty();
        const size_t begin = objects_.size();
        const uint32_t colour = colour_number(item.colour);
        for (const auto& [body, mesh] : item.apart) put(body, number, mesh, stand, colour);
        if (item.apart.empty()) put(item.name, number, item.mesh, stand, colour);
        constexpr uint32_t grey = 0xb8b2a4;
        for (const auto& [mesh, what] :
             {std::pair(&item.supports, " supports"), std::pair(&item.brim, " brim"), std::pair(&item.raft, " raft")})
            if (!mesh->empty()) put(item.name + number + what, {}, *mesh, stand, grey, true);
        const bool told = ++copies_[&item] > 1; // once a bed, however many of them lie there
        if (first && with_settings) objects_[0].remark = settings_words(*printer_);
        if (told) return;
        for (const std::string& remark : item.remarks)
            objects_[begin].remark += (objects_[begin].remark.empty() ? "" : "\n") + remark;
        if (!item.filled.empty())
            helpers_.push_back({.name = filled_name(item), .mesh = item.filled, .colour = colour, .helper = true});
    }

    bool empty() const { return objects_.empty(); }
    /// Of what was written.
    std::span<const FileObject> built() const { return {objects_.data(), built_}; }

    /// Where the thing stands in the file.
    TriMesh meant(const FileObject& object) const {
        return transformed(objects_[object.same_as.value_or(size_t(&object - objects_.data()))].mesh, object.place);
    }

    std::optional<Problem> write(const std::filesystem::path& path, const std::string& title, bool with_settings) {
        built_ = objects_.size();
        std::move(helpers_.begin(), helpers_.end(), std::back_inserter(objects_));
        FileExtras extras;
        extras.picture_png = png_of(picture());
        if (with_settings) extras.settings_json = print_settings_json(*printer_, copies_);
        return write_objects(path, objects_, title, extras);
    }

  private:
    void put(const std::string& name, const std::string& number, const TriMesh& mesh, const Transform& stand,
             uint32_t colour, bool support = false) {
        FileObject object{.name = name + number, .support = support, .colour = colour};
        object.place = stand;
        object.shape = name;
        const auto [known, fresh] = shapes_.emplace(&mesh, objects_.size());
        if (fresh)
            object.mesh = mesh;
        else
            object.same_as = known->second;
        objects_.push_back(std::move(object));
    }

    PartPicture picture() const {
        constexpr int side = 256, border = 6; // pixels, what file managers show
        TriMesh all;
        std::vector<uint32_t> colours;
        for (const FileObject& object : built()) {
            append(all, meant(object));
            colours.resize(all.triangles.size(), object.colour);
        }
        return draw_part(all, side, side, border, colours);
    }

    const PrinterCard* printer_;
    std::vector<FileObject> objects_, helpers_;
    size_t built_ = 0;
    std::map<const TriMesh*, size_t> shapes_; ///< the object that has it first
    CopiesOnBed copies_;
};

std::vector<ReadBack> compared(const std::filesystem::path& file, const BedFile& bed,
                               const std::vector<FileObject>& read) {
    std::vector<ReadBack> result;
    for (const FileObject& object : bed.built()) {
        const TriMesh none;
        auto found = std::find_if(read.begin(), read.end(), [&](const FileObject& o) { return o.name == object.name; });
        result.push_back(
            compare_meshes(file, object.name, found == read.end() ? none : found->triangles(), bed.meant(object)));
        result.back().support = object.support;
    }
    return result;
}

} // namespace

uint32_t colour_number(const std::string& colour) {
    if (colour.size() == 7 && colour[0] == '#') return uint32_t(std::strtoul(colour.c_str() + 1, nullptr, 16));
    return 0xd69b48;
}

Expected<std::vector<ReadBack>> write_beds(const Evaluation& evaluation, const std::vector<ExportItem>& items,
                                           const std::filesystem::path& path, bool in_place) {
    std::map<PartId, const ExportItem*> item_of;
    for (const ExportItem& item : items) item_of[item.part] = &item;
    const Project& project = *evaluation.project;
    const BedPlan plan = in_place ? plan_in_place(items) : bed_plan_of(project, items);
    std::vector<BedFile> beds(plan.beds, BedFile(project.printer));
    std::map<std::string, int> count;
    const auto height = [&](PartId part) { return height_of(item_of.at(part)->mesh); };
    for (const BedItem& item : in_printing_order(project, plan.items, height)) {
        const ExportItem& printed = *item_of.at(item.part);
        const int n = ++count[printed.name];
        beds[item.spot.bed].add(printed, printed.quantity > 1 ? std::string(" ") + std::to_string(n) : "", item.stand,
                                !in_place);
    }
    std::erase_if(beds, [](const BedFile& bed) { return bed.empty(); }); // nothing was put on one between
    std::vector<ReadBack> result;
    for (size_t bed = 0; bed < beds.size(); ++bed) {
        std::filesystem::path file = path;
        if (bed > 0)
            file.replace_filename(path.stem().string() + "-bed-" + std::to_string(bed + 1) + path.extension().string());
        if (auto failed = beds[bed].write(file, project.name, !in_place)) return pass_on(*failed);
        auto bytes = read_file(file);
        auto read = bytes ? read_objects(file.filename().string(), *bytes) : pass_on(bytes);
        if (!read) return pass_on(read);
        for (ReadBack& back : compared(file, beds[bed], read->objects)) result.push_back(std::move(back));
    }
    return result;
}

} // namespace lp
