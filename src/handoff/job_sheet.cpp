#include "handoff/job_sheet.h"
#include "base/quantity.h"
#include "base/text.h"
#include "project/assembly_order.h"
#include "project/contact_words.h"
#include "project/findings.h"
#include "project/hardware_list.h"
#include "project/sizes_to_measure.h"
#include "project/standing.h"
#include <algorithm>

namespace lp {
namespace {

std::string mm(double value, int decimals = 1) {
    return format_quantity(value, QuantityKind::Length, decimals);
}

/// "as designed", "its right side down", "turned: 0.71, 0, -0.71 down".
std::string lies_words(const PrintPose& pose) {
    static const std::pair<Vec3, const char*> sides[] = {
        {{0, 0, -1}, "as designed"},        {{0, 0, 1}, "upside down"},     {{1, 0, 0}, "its right side down"},
        {{-1, 0, 0}, "its left side down"}, {{0, -1, 0}, "its front down"}, {{0, 1, 0}, "its back down"}};
    const Vec3 down = pose.down.normalized();
    std::string words;
    for (const auto& [way, called] : sides)
        if ((down - way).norm() < 1e-3) words = called;
    if (words.empty())
        words = format_number(down.x(), 2) + ", " + format_number(down.y(), 2) + ", " + format_number(down.z(), 2) +
                " of the design points down";
    for (int axis = 0; axis < 3; ++axis)
        if (const std::string& turn = pose.turn[size_t(axis)]; turn != "0 deg" && turn != "0") {
            words.append(", turned ").append(turn).append(" about ").append(1, char('x' + axis));
        }
    return words;
}

std::string beside_words(const Part& part, const Supports& supports) {
    std::string words;
    auto add = [&](const std::string& more) { words.append(words.empty() ? "" : ", ").append(more); };
    if (supports.count()) add(supports.says_how_many());
    if (!supports.raft.empty())
        add("a raft of " + std::to_string(part.supports.options.raft_layers) + " layers");
    else if (!supports.brim.empty())
        add("a brim of " + mm(part.supports.options.brim_mm));
    return words.empty() ? "nothing beside it" : words;
}

/// The picture of a part as it lies, with its width, depth and height.
PdfPicture picture_of(const TriMesh& mesh) {
    constexpr int wide = 960, high = 700, border = 140;
    PdfPicture result;
    result.picture = draw_part(mesh, wide, high, border);
    const Box3 box = bounding_box(mesh);
    if (box.isEmpty()) return result;
    const Vec3 low = box.min(), high_corner = box.max(), size = box.sizes();
    auto add = [&](const Vec3& a, const Vec3& b, double length) {
        const Vec2 p = result.picture.at(a), q = result.picture.at(b), middle = result.picture.at(box.center());
        Vec2 out(-(q - p).y(), (q - p).x());
        if (out.norm() < 1) return;
        out.normalize();
        if (out.dot((p + q) / 2 - middle) < 0) out = -out;
        constexpr double beside_px = 24;
        result.dimensions.push_back({p + out * beside_px, q + out * beside_px, out, mm(length)});
    };
    const Vec3 front_right(high_corner.x(), low.y(), low.z());
    add(low, front_right, size.x());
    add(front_right, Vec3(high_corner.x(), high_corner.y(), low.z()), size.y());
    add(low, Vec3(low.x(), low.y(), high_corner.z()), size.z());
    return result;
}

class SheetOfWork {
  public:
    SheetOfWork(const Evaluation& evaluation, const Analysis& analysis, const JobSheetOptions& options,
                std::vector<ExportItem> items)
        : evaluation_(evaluation), project_(*evaluation.project), analysis_(analysis), items_(std::move(items)),
          pdf_(options.paper, project_.name + (options.date.empty() ? "" : ", " + options.date)), date_(options.date) {}

    Expected<JobSheet> run(const Task& task) {
        head();
        parts();
        for (size_t i = 0; i < items_.size(); ++i) {
            if (task.stopped()) return cancelled();
            task.tell("Drawing " + items_[i].name, 0.3 + 0.6 * double(i) / double(items_.size()));
            one_part(items_[i]);
        }
        to_buy();
        if (!assembly(task)) return cancelled();
        fits();
        beds();
        pauses();
        to_measure();
        settings();
        numbers();
        const int pages = pdf_.pages();
        auto bytes = pdf_.finish();
        if (!bytes) return pass_on(bytes);
        return JobSheet{std::move(*bytes), pages};
    }

  private:
    const Part& part(const ExportItem& item) const { return *project_.part(item.part); }
    const LayerPlan* plan(const ExportItem& item) const {
        const PartAnalysis* found = analysis_.part(item.part);
        return found && found->plan ? &*found->plan : nullptr;
    }

    std::vector<PartPause> pauses_of_part(const ExportItem& item) const {
        const PartAnalysis* found = analysis_.part(item.part);
        return found ? found->pauses : std::vector<PartPause>();
    }

    void head() {
        pdf_.title(project_.name);
        int pieces = 0;
        for (const ExportItem& item : items_) pieces += item.quantity;
        std::string words =
            "Job sheet" + (date_.empty() ? std::string() : " of " + date_) + ": " + std::to_string(items_.size()) +
            (items_.size() == 1 ? " part, " : " parts, ") + std::to_string(pieces) +
            (pieces == 1 ? " piece" : " pieces") + " of " + material_words(project_) + " on " + project_.printer.name +
            ". Together about " + format_duration(analysis_.time_s) + ", " + format_number(analysis_.mass_g, 1) +
            " g, " + format_number(analysis_.filament_mm / 1000, 2) + " m of filament, " +
            format_fixed(analysis_.price, 2) + " for material, " + format_number(analysis_.energy_kwh, 2) +
            " kWh for " + format_fixed(analysis_.energy_price, 2) + ".";
        pdf_.paragraph(words);
        size_t open = 0;
        for (FindingStage stage : {FindingStage::Shape, FindingStage::Fit, FindingStage::Check, FindingStage::Bed})
            open += open_findings(evaluation_, &analysis_, stage);
        if (open)
            pdf_.paragraph("Still open when this was written: " + std::to_string(open) +
                           (open == 1 ? " finding" : " findings") + "; they stand beside the parts.");
    }
    void parts() {
        pdf_.heading("To print");
        std::vector<std::vector<std::string>> rows;
        for (const ExportItem& item : items_) {
            const Vec3 size = bounding_box(item.mesh).sizes();
            const LayerPlan* its = plan(item);
            rows.push_back({item.name, std::to_string(item.quantity), material_of(project_, part(item)).name,
                            item.colour,
                            format_number(size.x(), 1) + " x " + format_number(size.y(), 1) + " x " +
                                format_number(size.z(), 1) + " mm",
                            its ? format_number(its->mass_g, 1) + " g" : "unknown",
                            its ? format_duration(its->time_s) : "unknown"});
        }
        pdf_.table({{"Part", 2},
                    {"Pieces", 0.7, true},
                    {"Material", 1},
                    {"Colour", 1.3},
                    {"Size as it lies", 2},
                    {"Each", 0.9, true},
                    {"Time each", 1.2, true}},
                   rows);
    }
    void one_part(const ExportItem& item) {
        std::vector<std::string> sentences;
        const PartAnalysis* found = analysis_.part(item.part);
        sentences.push_back("Lies " + lies_words(part(item).pose) + ".");
        if (found) sentences.push_back("Printed with " + beside_words(part(item), found->supports) + ".");
        if (const LayerPlan* its = plan(item))
            sentences.push_back(std::to_string(its->layers.size() + size_t(its->raft_layers)) + " layers, " +
                                mm(its->height_mm, 2) + " high.");
        for (const PartPause& pause : pauses_of_part(item)) sentences.push_back("Stop: " + pause.words() + ".");
        constexpr size_t most = 8;
        size_t told = 0;
        for (const PartFinding& finding : findings_of_part(evaluation_, &analysis_, item.part))
            if (told++ < most) sentences.push_back(finding.finding.title_and_count() + ": " + finding.finding.says);
        if (told > most) sentences.push_back("... and " + std::to_string(told - most) + " more findings.");
        pdf_.beside(picture_of(item.mesh),
                    item.name + (item.quantity > 1 ? ", " + std::to_string(item.quantity) + " pieces" : ""), sentences);
    }
    void to_buy() {
        const auto list = hardware_list(evaluation_);
        std::vector<std::vector<std::string>> rows;
        for (const HardwareCount& one : list)
            rows.push_back({std::to_string(one.count), one.name, one.sure ? "" : "sizes from memory: measure yours"});
        if (rows.empty()) return;
        pdf_.heading("To buy");
        pdf_.table({{"Pieces", 0.6, true}, {"What", 4}, {"Mind", 2.4}}, rows);
    }
    /// A picture a move: what is there already, and the part that comes in a little off its place.
    bool assembly(const Task& task) {
        const auto moves = assembly_order(evaluation_, analysis_, task);
        if (!moves) return false;
        std::vector<std::pair<size_t, size_t>> things; // of moves: from, behind the last
        for (size_t i = 0; i < moves->size(); ++i) {
            if ((*moves)[i].from.isZero()) things.emplace_back(i, i);
            things.back().second = i + 1;
        }
        bool first = true;
        for (const auto& [from, behind] : things) {
            if (behind - from < 2) continue; // it is put to nothing
            if (std::exchange(first, false)) {
                pdf_.heading("Put together");
                if (const auto standing = standing_of(evaluation_).words(); !standing.empty())
                    pdf_.paragraph("Shown as it stands: " + joined(standing) + ".");
            }
            TriMesh there = in_place((*moves)[from].part);
            for (size_t i = from + 1; i < behind; ++i) {
                if (task.stopped()) return false;
                const AssemblyMove& move = (*moves)[i];
                TriMesh part = in_place(move.part);
                const double far = 0.7 * bounding_box(there).diagonal().norm();
                // Where it is drawn, and each bend of its way from there.
                std::vector<Vec3> stops{bounding_box(part).center()};
                for (const Vec3& leg : move.legs) stops.push_back(stops.back() + leg);
                stops.push_back(stops.back() + std::min(move.apart_mm, far) * move.from);
                const Vec3 away = stops.back() - stops.front();
                TriMesh drawn = there;
                append(there, part);
                for (Vec3& v : part.vertices) v += away;
                append(drawn, part);
                PdfPicture picture{draw_part(drawn, 960, 700, 60), {}};
                for (size_t k = stops.size() - 1; k > 0; --k) {
                    const Vec2 start = picture.picture.at(stops[k]), to = picture.picture.at(stops[k - 1]);
                    if ((to - start).norm() > 4)
                        picture.dimensions.push_back(
                            {start, to, Vec2((to - start).y(), -(to - start).x()).normalized(), "", true});
                }
                std::vector<std::string> sentences{"Comes " + move.words() + "."};
                const std::string onto = i == from + 1 ? "To " + (*moves)[from].name + "." : "";
                if (!onto.empty()) sentences.insert(sentences.begin(), onto);
                pdf_.beside(picture, std::to_string(i - from) + ". " + move.name, sentences);
            }
        }
        return true;
    }
    TriMesh in_place(PartId id) const {
        const PartResult* made = evaluation_.part(id);
        return made ? mesh_where_it_stands(*made, standing_of(evaluation_)) : TriMesh{};
    }

    /// With room for what was found.
    void to_measure() {
        std::vector<std::vector<std::string>> rows;
        for (const ExportItem& item : items_) {
            const PartAnalysis* known = analysis_.part(item.part);
            const PartResult* made = evaluation_.part(item.part);
            if (!known || !made) continue;
            bool first = true;
            for (const SizeToMeasure& size : sizes_to_measure(*made, *known, project_.printer))
                rows.push_back({std::exchange(first, false) ? item.name : "", size.what, mm(size.drawn_mm, 2),
                                mm(size.expected_mm, 2), "________"});
        }
        if (rows.empty()) return;
        pdf_.heading("To measure when it is printed");
        pdf_.table({{"Part", 1.8}, {"What", 2}, {"As drawn", 1, true}, {"This printer", 1, true}, {"Found", 1}}, rows);
    }
    void fits() {
        std::vector<std::vector<std::string>> rows;
        for (const ContactResult& contact : analysis_.contacts)
            if (!contact.fit.empty() || contact.open())
                rows.push_back(
                    {contact_title(contact), wanted_words(project_, contact), found_words(contact),
                     fit_state_words(contact) + (contact.fused ? "; " + fused_words(*contact.fused) : std::string())});
        if (!rows.empty()) {
            pdf_.heading("Fits");
            pdf_.table({{"What goes into what", 3}, {"Wanted gap", 1.5}, {"As drawn", 1.7}, {"State", 2}}, rows);
        }
        for (const GaugeResult& gauge : project_.printer.gauges) {
            std::string felt;
            for (const auto& [fit, number] : gauge.felt)
                felt.append(felt.empty() ? "" : ", ").append(fit).append(" at number ").append(std::to_string(number));
            pdf_.paragraph("The " + gauge.contact + " gauge of " + gauge.date + " (" + mm(gauge.from_mm, 2) + " to " +
                           mm(gauge.to_mm, 2) + ") felt: " + felt + ".");
        }
    }
    void beds() {
        const BedPlan plan = bed_plan_of(project_, items_);
        std::vector<std::map<std::string, int>> on(plan.beds);
        for (const BedItem& item : plan.items)
            if (item.spot.bed < on.size()) ++on[item.spot.bed][project_.part(item.part)->name];
        std::vector<std::vector<std::string>> rows;
        for (size_t bed = 0; bed < on.size(); ++bed) {
            std::string words;
            for (const auto& [name, count] : on[bed])
                words.append(words.empty() ? "" : ", ").append(std::to_string(count)).append(" x ").append(name);
            if (!words.empty()) rows.push_back({std::to_string(rows.size() + 1), words});
        }
        pdf_.heading("Beds");
        pdf_.table({{"Bed", 0.5, true}, {"On it", 6}}, rows);
        if (project_.beds.one_at_a_time) pdf_.paragraph("Each is printed whole before the next, the lowest first.");
    }
    void pauses() {
        std::vector<std::vector<std::string>> rows;
        for (const ExportItem& item : items_)
            for (const PartPause& pause : pauses_of_part(item))
                rows.push_back({item.name, pause.thing, std::to_string(pause.layer()),
                                std::to_string(pause.layer_with_raft()), mm(pause.pause.at_mm, 2),
                                pause.pause.sound ? "" : pause.words()});
        if (rows.empty()) return;
        pdf_.heading("Stop before these layers");
        pdf_.table({{"Part", 1.6},
                    {"Lay in", 1.8},
                    {"Layer", 0.7, true},
                    {"With raft", 0.9, true},
                    {"Height of the part", 1.3, true},
                    {"Mind", 2}},
                   rows);
    }
    void settings() {
        const PrinterCard& card = project_.printer;
        pdf_.heading("Settings");
        pdf_.table({{"Setting", 2}, {"Value", 1.4}, {"Comes from", 3}},
                   {{"Nozzle", mm(card.nozzle_mm, 2), card.source_of("nozzle_mm")},
                    {"Line width", mm(card.line_mm(), 2), card.source_of("line_width_mm")},
                    {"Layer height", mm(card.layer_height_mm, 2), card.source_of("layer_height_mm")},
                    {"First layer", mm(card.first_layer_mm, 2), card.source_of("first_layer_mm")},
                    {"Walls", std::to_string(card.walls), card.source_of("walls")},
                    {"Infill", format_number(card.infill_percent, 0) + " %", card.source_of("infill_percent")},
                    {"Faces grow by", mm(card.outside_growth_mm, 2), card.source_of("outside_growth_mm")},
                    {"Holes shrink by, a side", mm(card.hole_shrink_mm, 2), card.source_of("hole_shrink_mm")},
                    {"Overhang limit", format_quantity(card.overhang_limit_deg, QuantityKind::Angle, 0),
                     card.source_of("overhang_limit_deg")},
                    {"Bridge limit", mm(card.bridge_limit_mm), card.source_of("bridge_limit_mm")},
                    {"Bed",
                     format_number(card.bed_mm.x(), 0) + " x " + format_number(card.bed_mm.y(), 0) + " x " +
                         format_number(card.bed_mm.z(), 0) + " mm",
                     card.source_of("bed_mm")}});
    }
    void numbers() {
        std::vector<std::vector<std::string>> rows;
        for (const Parameter& number : project_.parameters) {
            const auto value = evaluation_.values.find(number.name);
            rows.push_back(
                {number.name, number.expression,
                 value == evaluation_.values.end() ? "" : format_quantity(value->second.value, value->second.kind)});
        }
        if (rows.empty()) return;
        pdf_.heading("Named numbers");
        pdf_.table({{"Name", 2}, {"As typed", 3}, {"Value", 1.5, true}}, rows);
    }

    const Evaluation& evaluation_;
    const Project& project_;
    const Analysis& analysis_;
    std::vector<ExportItem> items_;
    PdfWriter pdf_;
    std::string date_;
};

} // namespace

Expected<JobSheet> job_sheet(const Evaluation& evaluation, const Analysis& analysis, const JobSheetOptions& options,
                             const Task& task) {
    task.tell("Preparing parts", 0.05);
    auto items = export_items(evaluation, 0.05, task); // fine enough for a picture
    if (!items) return pass_on(items);
    if (items->empty())
        return problem(ProblemCode::Geometry, "There is nothing to print: no part has a body and a quantity.", "");
    return SheetOfWork(evaluation, analysis, options, std::move(*items)).run(task);
}

} // namespace lp
