#include "handoff/print_settings.h"
#include <nlohmann/json.hpp>

namespace lp {

using nlohmann::json;

namespace {

json layers_json(const LayerHeights& heights) {
    json layers{{"height_mm", heights.layer_mm}, {"first_mm", heights.first_mm}};
    for (const HeightBand& band : heights.bands)
        layers["bands"].push_back({{"from_mm", band.from_mm}, {"to_mm", band.to_mm}, {"height_mm", band.layer_mm}});
    return layers;
}

json object_json(const ExportItem& item, int copies) {
    json object{{"name", item.name},
                {"copies", copies},
                {"material", item.layers.material.name},
                {"walls", item.layers.walls},
                {"infill_percent", item.layers.infill_percent},
                {"infill", word_of(item.layers.infill)},
                {"line_width_mm", item.layers.line_width_mm},
                {"layers", layers_json(item.layers.heights)}};
    if (!item.apart.empty()) {
        object["objects"] = json::array();
        for (const auto& [name, mesh] : item.apart) object["objects"].push_back(name);
    }
    if (item.layers.raft_layers > 0) object["raft_layers"] = item.layers.raft_layers;
    if (!item.filled.empty()) object["solid_within"] = filled_name(item);
    for (const PartPause& stop : item.stops)
        if (stop.pause.needed)
            object["stops"].push_back(
                {{"before_layer", stop.layer_with_raft()}, {"at_mm", stop.pause.at_mm}, {"why", stop.words()}});
    return object;
}

} // namespace

std::string filled_name(const ExportItem& item) {
    return item.name + " printed solid";
}

std::string print_settings_json(const PrinterCard& printer, const CopiesOnBed& on_bed) {
    json settings{{"version", 1},
                  {"printer",
                   {{"name", printer.name},
                    {"nozzle_mm", printer.nozzle_mm},
                    {"bed_mm", {printer.bed_mm.x(), printer.bed_mm.y(), printer.bed_mm.z()}}}},
                  {"skirt_loops", printer.skirt_loops},
                  {"objects", json::array()}};
    std::map<PartId, json> in_order; // the same bytes from the same bed
    for (const auto& [item, copies] : on_bed) in_order[item->part] = object_json(*item, copies);
    for (auto& [part, object] : in_order) settings["objects"].push_back(std::move(object));
    return settings.dump(1);
}

} // namespace lp
