#include "app/panels/check_panel.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/quantity.h"
#include "steps/meshes/mend.h"
#include <QFocusEvent>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QRadioButton>
#include <QTimer>
#include <utility>

namespace lp {

using theme::Role;

namespace {

/// Shows the parts as they would be with a cure while the pointer rests on its button, or once the keys have come to
/// it: what goes is drawn already as the finding's places, what comes is seen in its place.
class CurePreview : public QObject {
  public:
    CurePreview(Session* session, Edit edit, QPushButton* button)
        : QObject(button), session_(session), edit_(std::move(edit)) {
        button->installEventFilter(this);
        button->setMouseTracking(true);
        rest_.setSingleShot(true);
        rest_.setInterval(250);
        connect(&rest_, &QTimer::timeout, this, &CurePreview::show);
        // What is done now shows itself.
        connect(button, &QPushButton::clicked, this, [this] {
            rest_.stop();
            shown_ = false;
        });
    }
    ~CurePreview() override { end(); }

  protected:
    bool eventFilter(QObject*, QEvent* event) override {
        switch (event->type()) {
        case QEvent::MouseMove: // not where a button has come under a pointer that lies still
            if (!shown_) rest_.start();
            break;
        case QEvent::FocusIn: // not where the column gives the focus back
            if (const auto why = static_cast<QFocusEvent*>(event)->reason();
                why == Qt::TabFocusReason || why == Qt::BacktabFocusReason)
                rest_.start();
            break;
        case QEvent::Leave:
        case QEvent::FocusOut:
        case QEvent::Hide:
            end();
            break;
        default:
            break;
        }
        return false;
    }

  private:
    void show() {
        // What is known of the parts as they are comes first: the buttons are of it.
        if (!session_->results().evaluation_is_current() || !session_->results().analysis_is_current()) return;
        auto edited = apply_edit(*session_->project(), edit_);
        if (!edited) return;
        shown_ = true;
        session_->results().preview(edited->project);
    }
    void end() {
        rest_.stop();
        if (std::exchange(shown_, false)) session_->results().end_preview();
    }
    Session* session_;
    Edit edit_;
    QTimer rest_;
    bool shown_ = false;
};

} // namespace

/// The view turns to the finding, coloured by what it is about.
static void look_at(Workspace& workspace, const FindingRef& finding) {
    workspace.set_active_finding(finding);
    if (finding.kind == FindingKind::Thin) workspace.set_coloured(Workspace::Coloured::Walls);
    if (finding.kind == FindingKind::Hanging || finding.kind == FindingKind::Bridge ||
        finding.kind == FindingKind::LyingHole)
        workspace.set_coloured(Workspace::Coloured::Hanging);
}

CheckPanel::CheckPanel(Session* session, QWidget* parent) : Column(parent), session_(session) {
    setAccessibleName("Findings");
    for (auto fact : {&Workspace::selection_changed, &Workspace::active_part_changed, &Workspace::finding_changed,
                      &Workspace::coloured_changed})
        connect(&session->workspace(), fact, this, &CheckPanel::refresh);
    for (auto fact : {&Results::analysed, &Results::evaluated, &Results::cures_tried, &Results::check_map_changed})
        connect(&session->results(), fact, this, &CheckPanel::refresh);
    refresh();
}

void CheckPanel::add_mending(PartId part, const QString& name) {
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 8, theme::margin, 4);
    mend_ = new QPushButton("Mend " + name, row);
    mend_->setProperty("primary", true);
    mend_->setToolTip("Adds one step that welds, turns and closes; it can be undone and its numbers changed");
    connect(mend_, &QPushButton::clicked, session_, [s = session_, part] {
        s->document().edit(AddStep{part, step_of_kind(mend_before().add_step), {}});
    });
    box->addWidget(mend_);
    body()->addWidget(row);
}

/// What the view colours on the part: of a stand-in, which is not printed, only how far it is off.
void CheckPanel::add_coloured(bool printed) {
    using Coloured = Workspace::Coloured;
    const Coloured now = session_->workspace().coloured();
    const auto original = session_->results().original();
    if (!printed && !original) return;
    body()->addWidget(make_heading("Coloured in the view", {}, this));
    auto* rows = new QWidget(this);
    auto* grid = new QGridLayout(rows);
    grid->setContentsMargins(theme::margin, 2, theme::margin, 2);
    grid->setColumnStretch(2, 1);
    auto choice = [&](const char* words, const QString& hint, Coloured what, int row, int column) {
        auto* button = new QRadioButton(words, rows);
        button->setToolTip(hint);
        button->setChecked(now == what);
        connect(button, &QRadioButton::clicked, session_, [s = session_, what] { s->workspace().set_coloured(what); });
        grid->addWidget(button, row, column, 1, row ? 3 : 1, Qt::AlignLeft); // pressed on its words only
        return button;
    };
    if (printed) {
        hanging_ =
            choice("What hangs", "Faces that lean out further than the printer's card allows", Coloured::Hanging, 0, 0);
        walls_ = choice("How thick it is", "The largest ball inside the body that touches each place", Coloured::Walls,
                        0, 1);
    }
    if (original)
        deviation_ =
            choice("How far it is off", "The distance of each place to " + QString::fromStdString(original->words),
                   Coloured::Deviation, 1, 0);
    body()->addWidget(rows);
    if (printed && now == Coloured::Walls) tell_walls();
    if (original && now == Coloured::Deviation) tell_deviation(*original);
}

void CheckPanel::tell_walls() {
    const QString nozzle =
        as_shown(QString::fromStdString(format_number(session_->project()->printer.nozzle_mm, 2) + " mm"))
            .replace(' ', QChar::Nbsp);
    body()->addWidget(make_note(session_->results().mapping_check()
                                    ? "Measuring walls …"
                                    : "Contours between multiples of the nozzle's " + nozzle +
                                          ", hatched below two of them. Plain: thicker than is measured.",
                                false, this));
}

void CheckPanel::tell_deviation(const Original& original) {
    if (session_->results().mapping_check())
        return body()->addWidget(make_note("Measuring how far it is off …", false, this));
    double largest = 0;
    for (const auto& map : session_->results().check_map()) largest = std::max(largest, largest_value(*map));
    const QString off = as_shown(QString::fromStdString(format_fixed(largest, 3) + " mm")).replace(' ', QChar::Nbsp);
    body()->addWidget(make_note("At most " + off + " off " + QString::fromStdString(original.words) +
                                    ". What is further off than the scale goes has its last colour.",
                                false, this));
}

/// One after the other: each place of the finding that is looked at.
void CheckPanel::add_places(const Finding& finding) {
    const size_t count = finding.places.size();
    if (count < 2) return;
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin + 24, 2, theme::margin, 4);
    const size_t place = session_->workspace().finding_place() % count;
    const QString all = finding.count > count ? QString("the first %1").arg(count) : QString::number(count);
    auto* words = new QLabel(QString("Place %1 of %2").arg(QString::number(place + 1), all), row);
    words->setFont(theme::words(12.5));
    box->addWidget(words);
    box->addStretch();
    auto step = [&](const char* title, const char* name, size_t to) {
        auto* button = new QPushButton(title, row);
        button->setObjectName(name);
        button->setAccessibleName(name);
        connect(button, &QPushButton::clicked, session_, [s = session_, to] { s->workspace().set_finding_place(to); });
        box->addWidget(button);
        return button;
    };
    before_ = step("Before", "The place before", (place + count - 1) % count);
    after_ = step("Next", "The next place", (place + 1) % count);
    body()->addWidget(row);
}

/// Below the finding that is looked at: steps that cure it, and what it comes to with each.
void CheckPanel::add_cures() {
    const Results& results = session_->results();
    if (results.trying_cures()) body()->addWidget(make_note("Trying what would help …", false, this));
    for (const TriedCure& tried : results.cures()) {
        auto* row = new QWidget(this);
        auto* box = new QVBoxLayout(row);
        box->setContentsMargins(theme::margin + 24, 2, theme::margin, 4);
        box->setSpacing(1);
        const QString words = QString::fromStdString(tried.cure.words + " · " + tried.cure.place);
        auto* cure = new QPushButton(row);
        cure->setFont(theme::words(13, QFont::DemiBold));
        cure->setText(cure->fontMetrics().elidedText(words, Qt::ElideRight, theme::left_width - 90));
        cure->setAccessibleName(words);
        const QString says = as_shown(QString::fromStdString(tried.says));
        cure->setToolTip(QString::fromStdString(tried.cure.hint));
        cure->setAccessibleDescription(says + " " + QString::fromStdString(tried.cure.hint));
        new CurePreview(session_, tried.cure.edit, cure);
        connect(cure, &QPushButton::clicked, session_,
                [s = session_, edit = tried.cure.edit] { s->document().edit(edit); });
        cures_.push_back(cure);
        box->addWidget(cure);
        auto* line = new QLabel(says, row);
        line->setFont(theme::words(12));
        line->setWordWrap(true);
        box->addWidget(line);
        body()->addWidget(row);
    }
}

/// What steps that mended something have to say.
void CheckPanel::add_reports(const Part& part) {
    const PartResult* made = session_->results().evaluation()->part(part.id);
    for (const StepOutcome& outcome : made->steps) {
        const Step* step = part.step(outcome.step);
        const StepKind* kind = step ? find_step_kind(step->kind) : nullptr;
        if (kind && kind->reports && outcome.ok && step->on)
            body()->addWidget(make_note(QString::fromStdString(outcome.says), false, this));
    }
}

void CheckPanel::rebuild() {
    if (session_->results().is_previewing()) return; // what is shown is nobody's yet, and is asked for from here
    clear();
    findings_.clear();
    cures_.clear();
    mend_ = before_ = after_ = nullptr;
    hanging_ = walls_ = deviation_ = nullptr;
    const Analysis* analysis = session_->results().analysis();
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    const PartAnalysis* mine = analysis && part ? analysis->part(part->id) : nullptr;
    QString name = part ? QString::fromStdString(part->name) : QString();
    if (!mine) {
        body()->addWidget(make_heading("Findings", name, this));
        body()->addWidget(
            make_note(part && part->stand_in
                          ? "A stand-in is never printed, so there is nothing to check. Choose a part on the shelf."
                          : "Choose a part with a body on the shelf, and what would go wrong in print stands here.",
                      false, this));
        add_coloured(false);
        body()->addStretch();
        return;
    }
    const Evaluation& evaluation = *session_->results().evaluation();
    const auto list = findings_of_part(evaluation, analysis, part->id);
    body()->addWidget(make_heading("Findings", QString("%1 in %2").arg(list.size()).arg(name), this));
    for (const PartFinding& f : list) {
        auto* row = new MarkRow(QString::fromStdString(f.finding.title_and_count()),
                                QString::fromStdString(f.finding.says), this);
        row->set_mark(row_of(f.finding.kind).mark);
        row->set_help(session_, QString("finding:") + row_of(f.finding.kind).id);
        row->set_active(session_->workspace().active_finding() == f.ref);
        connect(
            row, &MarkRow::chosen, session_, [s = session_, ref = f.ref] { look_at(s->workspace(), ref); },
            Qt::QueuedConnection);
        findings_.push_back(row);
        body()->addWidget(row);
        if (session_->workspace().active_finding() != f.ref) continue;
        add_places(f.finding);
        add_cures();
    }
    if (list.empty()) body()->addWidget(make_note("Nothing is wrong with it as it lies.", false, this));
    if (wants_mending(evaluation, *analysis, part->id)) add_mending(part->id, name);
    add_reports(*part);
    add_coloured(true);
    body()->addWidget(make_heading("Soundness", "every printed part", this));
    for (const auto& other : analysis->parts) {
        PartPtr its = session_->project()->part(other->part);
        const PartResult* made = session_->results().evaluation()->part(other->part);
        if (!its || !made) continue;
        const Soundness& s = other->inspection.soundness;
        bool sound = s.sound();
        auto* row =
            new MarkRow(QString::fromStdString(its->name),
                        sound ? QString("sound · %1, %2 facets").arg(made->exact ? "exact" : "faceted").arg(s.triangles)
                              : QString("%1 open edges · %2 flipped · %3 doubled")
                                    .arg(s.open_edges.count)
                                    .arg(s.flipped.count)
                                    .arg(s.duplicate.count),
                        this);
        row->set_mark(sound ? theme::Mark(theme::Outcome::Sound) : theme::Mark(row_of(FindingKind::Open).mark));
        connect(
            row, &MarkRow::chosen, session_, [s = session_, id = other->part] { s->workspace().set_active_part(id); },
            Qt::QueuedConnection);
        body()->addWidget(row);
    }
    body()->addStretch();
}

} // namespace lp
