#include "app/strip/read_plan.h"
#include "base/files.h"
#include "base/quantity.h"
#include "base/text.h"
#include "layers/line_time.h"
#include "layers/read_layers.h"
#include "layers/read_lines.h"
#include <QStringList>

namespace lp {
namespace {

QString text(const std::string& words) {
    return QString::fromStdString(words);
}

/// "80 layers, 16 mm high, 70.5 x 24.4 mm, 7.8 g, 2.6 m of filament, 41 min by motion"
QString figures(size_t layers, double height_mm, const Vec3& size, double mass_g, double filament_mm, double time_s) {
    return text(counted(layers, "layer", "layers") + ", " + format_number(height_mm, 2) + " mm high, " +
                format_number(size.x(), 1) + " × " + format_number(size.y(), 1) + " mm, " + format_number(mass_g, 1) +
                " g, " + format_number(filament_mm / 1000, 2) + " m of filament, " + format_duration(time_s));
}

} // namespace

QString time_words(const LineTimes& times) {
    QStringList parts;
    auto add = [&](const char* what, double seconds) {
        constexpr double least_s = 0.5;
        if (seconds >= least_s) parts << QString(what) + " " + text(format_duration(seconds));
    };
    for (size_t k = 0; k < line_kinds; ++k) add(line_kind_words(LineKind(k)), times.by_kind_s[k]);
    add("hops", times.hops_s);
    add("drawing back", times.drawing_back_s);
    add("held back to cool", times.cooling_s);
    add("layer changes", times.changes_s);
    add("heating", times.start_s);
    return parts.join(", ");
}

Expected<ReadPlan> read_plan(const QString& file, const PartAnalysis* known, const QString& part,
                             const PrinterCard& printer, const MaterialCard& material, const Task& task) {
    task.tell("Reading the plan", 0.02);
    auto bytes = read_file(file.toStdString());
    if (!bytes) return pass_on(bytes);
    auto plan = read_gcode(*bytes, task);
    if (!plan) return pass_on(plan);
    ReadLayersOptions options;
    options.overhang_limit_deg = printer.overhang_limit_deg;
    options.material = material;
    auto layers = read_layers(*plan, options, task);
    if (!layers) return pass_on(layers);
    auto lines = read_lines(*plan, {material.filament_mm, printer.overhang_limit_deg}, task);
    if (!lines) return pass_on(lines);
    ReadPlan read{std::make_shared<const PartLines>(std::move(*lines)), {}};
    // The box is of the middles of lines: they reach out by half their width.
    const Vec3 size = layers->box.sizes() + Vec3::Constant(printer.line_mm());
    read.words = figures(layers->plan.layers.size(), layers->plan.height_mm, size, layers->plan.mass_g,
                         layers->plan.filament_mm, layers->time_motion_s) +
                 " by motion.";
    if (!layers->plan.islands.empty())
        read.words += " " + text(counted(layers->plan.islands.size(), "piece begins", "pieces begin")) +
                      QString(" on nothing, first in layer %1.").arg(layers->plan.islands.front().layer + 1);
    for (const ReadLayers::Pause& pause : layers->pauses)
        read.words += QString(" It stops before layer %1.").arg(pause.layer + 1);
    if (!known || !known->plan) return read;
    const Vec3 ours = bounding_box(*known->posed).sizes();
    const LayerPlan& mine = *known->plan;
    read.words += " Planned here for " + part + ": " +
                  figures(mine.layers.size() + size_t(mine.raft_layers), mine.height_mm, ours, mine.mass_g,
                          mine.filament_mm, mine.time_s) +
                  ".";
    const double layer_mm = printer.layer_height_mm;
    const Vec2 a(size.x(), size.y()), b(ours.x(), ours.y());
    constexpr double alike_mm = 1;
    const bool turned = (a - Vec2(b.y(), b.x())).cwiseAbs().maxCoeff() < alike_mm;
    if (((a - b).cwiseAbs().maxCoeff() > alike_mm && !turned) ||
        std::fabs(layers->plan.height_mm - mine.height_mm) > std::max(alike_mm, 2 * layer_mm))
        read.words += " Their sizes differ: it is another part, lies another way, or has something beside it.";
    return read;
}

} // namespace lp
