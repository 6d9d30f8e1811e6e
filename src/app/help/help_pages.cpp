#include "app/help/help_pages.h"
#include "app/offers/selection_fields.h"
#include "app/sheet/step_words.h"
#include "app/units.h"
#include "app/view/pointer_habits.h"
#include "app/widgets/tape.h"
#include "base/text.h"
#include "check/finding.h"
#include "steps/step_kind.h"
#include <QFile>

namespace lp {
namespace {

QString q(const std::string& text) {
    return QString::fromStdString(text);
}

QString limits_of(const StepField& field) {
    if (field.low == 0 && field.high == 0) return {};
    if (field.high >= 1e4) return field.low > 0 ? QString(" above 0;") : QString();
    const char* unit = field.kind == FieldKind::Length ? " mm" : field.kind == FieldKind::Angle ? "°" : "";
    return " " + as_shown(format_number(field.low) + " to " + format_number(field.high) + unit + ";");
}

QString page_of_kind(const StepKind& kind) {
    QString page = "# " + q(kind.title) + "\n\n" + as_shown(kind.purpose) + "\n\n";
    if (kind.needs_exact)
        page += "It works on exact bodies: not on ones that were brought in as triangles or bent.\n\n";
    if (!kind.synonyms.empty()) page += "Also found as *" + q(joined(kind.synonyms, "*, *")) + "*.\n\n";
    page += "## Its numbers and choices\n\n";
    for (const StepField& field : kind.fields) {
        page += "- **" + q(as_words(field.name)) + "**:" + limits_of(field) + " " + as_shown(field.hint);
        if (field.kind == FieldKind::Choice) page += " (" + q(joined(field.choices)) + ")";
        if (!field.standard.empty()) page += "; " + as_shown(field.standard) + " to begin with";
        page += "\n";
    }
    QStringList offered;
    for (const StepOffer& offer : kind.offers)
        if (!offer.hint.empty()) offered << "- " + offer_words(kind, offer) + ": " + as_shown(offer.hint);
    if (!offered.isEmpty()) page += "\n## Offered as\n\n" + offered.join("\n") + "\n";
    return page;
}

QString page_of_finding(const FindingRow& row) {
    QString page = QString("# %1\n\n%2\n\n").arg(row.title, row.about);
    if (row.of_mesh) page += "**Mend** in *Check* cures what it can, as one step that can be undone.\n\n";
    return page + QString("It is settled in *%1*.").arg(Tape::name_of(Stretch(row.stage)));
}

QString page_of_fit(const NamedFit& fit, const Project& project) {
    const PrinterCard& card = project.printer;
    QString page = "# " + q(fit.name) + "\n\n" + as_shown(format_fixed(fit.gap_mm, 2) + " mm a face") + ": " +
                   q(fit.source) + ".\n\n";
    page += "A gap a face is half of what a pin has in its hole altogether. What this printer's outside faces grow "
            "and its holes shrink more or less than usual is added, so that the gap is there in plastic.\n\n";
    page += "This printer keeps upright gaps open from " +
            as_shown(format_fixed(card.smallest_open_gap_mm, 2) + " mm") + ", lying ones from " +
            as_shown(format_fixed(card.smallest_open_gap_lying_mm, 2) + " mm") +
            "; narrower ones print as one piece.\n\n";
    const double own = fit_gap_of(fit, project.material);
    if (own != fit.gap_mm)
        page += "With " + q(project.material.name) + " it is " + as_shown(format_fixed(own, 2) + " mm") + " here.\n\n";
    return page + "Drag its notch on the gap ruler in *Fit*, or type its number; every contact with it follows. A "
                  "printed *gauge* finds out what the number should be.";
}

QString page_of_keys() {
    QString page = "# Keys\n", where;
    for (const KeyLine& line : all_keys()) {
        if (line.where != where) page += "\n## " + (where = line.where) + "\n\n";
        page += "- **" + line.keys + "**  " + line.does + "\n";
    }
    for (const PointerHabit& habit : pointer_habits())
        if (habit.habit == settings().pointer)
            page += "\n## Mouse and touchpad: " + habit.name + "\n\n- turn: " + habit.turn + "\n- move: " + habit.move +
                    "\n- zoom: " + habit.zoom + "\n- choose by a box: " + habit.box +
                    "\n- a menu of what fits: right button, without dragging\n\nAnother habit: *Settings*.\n";
    return page;
}

} // namespace

std::vector<KeyLine> all_keys() {
    return {
        {"F1", "the page of what is at hand", "Everywhere"},
        {"/", "all that can be done; type to look for it, numbers behind the words fill it in", "Everywhere"},
        {"1 … 9", "takes the offer with that number", "Everywhere"},
        {"Ctrl+Z, Ctrl+Shift+Z", "undo, redo", "Everywhere"},
        {"Ctrl+N, Ctrl+O, Ctrl+S, Ctrl+Shift+S", "new, open, save, save as", "Everywhere"},
        {"Ctrl+I", "bring in a mesh", "Everywhere"},
        {"Ctrl+B, Ctrl+Shift+B", "numbers by name, variants", "Everywhere"},
        {"Ctrl+L", "opens and closes the ledger", "Everywhere"},
        {"Ctrl+R", "once more: adds one to the last repeat", "Everywhere"},
        {"Ctrl+,", "settings", "Everywhere"},
        {"Alt+1 … Alt+5", "Shape, Fit, Check, Bed, Export", "Everywhere"},
        {"F6", "goes round the regions of the window", "Everywhere"},
        {"F2", "renames the project, or the part on the shelf", "Everywhere"},
        {"Esc", "lets go: an editor, a panel, what is chosen", "Everywhere"},
        {"Arrows", "turn; with Shift they move", "In the view"},
        {"+ and −", "nearer, farther", "In the view"},
        {"Home", "everything", "In the view"},
        {"Alt with arrows, Page Up, Page Down", "nudge by one step; Shift a tenth, Ctrl a hundredth", "In the view"},
        {"Menu", "what fits what is chosen", "In the view"},
        {"Enter, or a digit", "opens a number; Enter keeps it, Esc drops it", "In a number"},
        {"Tab, Shift+Tab", "keeps it and goes to the next, the one before", "In a number"},
        {"Up, Down", "one step more, less; Shift a tenth, Ctrl ten", "In a number"},
        {"Space", "shows or hides the part", "On the shelf"},
        {"+ and −", "how many are printed", "On the shelf"},
        {"Ctrl+D", "doubles the part", "On the shelf"},
        {"Ctrl+C, Ctrl+V", "copies it and puts it in, into another project too", "On the shelf"},
        {"Left, Right; Up, Down; Enter", "choose a fit; a hundredth; type its number", "On the gap ruler"},
        {"Up, Down; Home, End", "move the cut by a layer; all away, whole again", "On the layer strip"}};
}

const std::vector<std::pair<QString, QString>>& guide_pages() {
    static const std::vector<std::pair<QString, QString>> pages{{"index", "Where to begin"},
                                                                {"lidded-box", "A box with a lid"},
                                                                {"printed-hinge", "A hinge printed in one piece"},
                                                                {"threads", "Threads and bought hardware"},
                                                                {"bought-thing", "Round something bought"},
                                                                {"mended-mesh", "A damaged mesh"},
                                                                {"shape", "Shape"},
                                                                {"outlines", "Outlines"},
                                                                {"working", "Working the solid"},
                                                                {"fit", "Fit"},
                                                                {"check", "Check and mend"},
                                                                {"bed", "Bed"},
                                                                {"export", "Export"},
                                                                {"settings", "Settings"},
                                                                {"command-line", "The command line"},
                                                                {"keys", "Keys"}};
    return pages;
}

QString help_page(const QString& name, const Session& session) {
    if (name == "keys") return page_of_keys();
    const QString what = name.contains(':') ? name.section(':', 0, 0) : QString(), which = name.section(':', 1);
    if (what == "step") {
        const StepKind* kind = find_step_kind(which.toStdString());
        return kind ? page_of_kind(*kind) : QString();
    }
    if (what == "finding") {
        for (const FindingRow& row : finding_rows())
            if (which == row.id) return page_of_finding(row);
        return {};
    }
    if (what == "fit") {
        const NamedFit* fit = find_fit(session.project()->fits, which.toStdString());
        return fit ? page_of_fit(*fit, *session.project()) : QString();
    }
    QFile file(":/loose-peg/guide/" + QString(name).remove(".md") + ".md");
    return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
}

} // namespace lp
