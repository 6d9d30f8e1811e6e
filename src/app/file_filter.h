// What a file dialog shows, from the table of formats.
#pragma once
#include "formats/formats.h"
#include <QStringList>

namespace lp {

/// "Bodies (*.stl *.obj *.3mf)" or, for flat drawings, "Drawings (*.svg *.dxf)".
inline QString file_filter(const char* words, bool flat) {
    QString endings;
    for (const std::string& ending : read_endings(flat)) endings += " *." + QString::fromStdString(ending);
    return QString("%1 (%2)").arg(words, endings.trimmed());
}

/// "Drawings and pictures (*.svg *.dxf *.png *.jpg ...)".
inline QString drawings_and_pictures() {
    QString filter = file_filter("Drawings and pictures", true);
    filter.chop(1);
    return filter + " *.png *.jpg *.jpeg *.bmp)";
}

/// Endings under which plans of prints are kept.
inline const QStringList& plan_endings() {
    static const QStringList endings{"gcode", "gco", "g"};
    return endings;
}
inline bool is_print_plan(const QString& file) {
    return plan_endings().contains(file.section('.', -1).toLower());
}
inline QString plan_filter() {
    return "Print plans (*." + plan_endings().join(" *.") + ")";
}

} // namespace lp
