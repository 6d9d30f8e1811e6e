// Pages of help: the guide's, and those that are written from what the program knows of itself, so that they cannot be
// behind it: a kind of step, a finding, a fit, the keys.
#pragma once
#include "app/session.h"
#include <QString>

namespace lp {

/// Names of pages: "shape" (one of the guide's), "keys", "step:fillet", "finding:mid_air", "fit:slide".
/// Markdown; an empty text for a page that does not exist.
QString help_page(const QString& name, const Session& session);
/// The guide's pages in their order, with titles, then the keys.
const std::vector<std::pair<QString, QString>>& guide_pages();

struct KeyLine {
    QString keys, does, where;
};
/// Every key the window knows, by where it works.
std::vector<KeyLine> all_keys();

} // namespace lp
