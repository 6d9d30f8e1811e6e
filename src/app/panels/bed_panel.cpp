#include "app/panels/bed_panel.h"
#include "app/brushing.h"
#include "app/mark_faces.h"
#include "app/panels/beds_section.h"
#include "app/panels/print_section.h"
#include "app/single_supports.h"
#include "app/theme/theme.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QPushButton>
#include <QRadioButton>

namespace lp {

using theme::Role;

BedPanel::BedPanel(Session* session, QWidget* parent) : Column(parent), session_(session) {
    setAccessibleName("Pose and supports");
    connect(&session->document(), &Document::project_changed, this, &BedPanel::refresh);
    for (auto fact : {&Workspace::selection_changed, &Workspace::active_part_changed, &Workspace::copy_changed})
        connect(&session->workspace(), fact, this, &BedPanel::refresh);
    connect(&session->results(), &Results::analysed, this, &BedPanel::refresh);
    connect(&session->workspace(), &Workspace::brush_changed, this, &BedPanel::refresh);
    refresh();
}

static QString area_words(double mm2) {
    return QString::fromStdString(mm2 < 100 ? format_number(mm2, 0) + " mm²" : format_number(mm2 / 100, 1) + " cm²");
}

static QString foot_word(const SupportOptions& options) {
    return options.raft_layers > 0 ? "a raft" : options.brim_mm > 0 ? "a brim" : "none";
}

void BedPanel::rebuild() {
    for (ValueField* field : turns_)
        if (field && field->editing()) return;
    clear();
    supports_ = nullptr;
    kinds_ = {};
    turns_ = {};
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    if (!part || part->stand_in) {
        body()->addWidget(make_heading("Pose", "", this));
        body()->addWidget(make_note("A stand-in is never printed. Choose a part on the shelf.", false, this));
        body()->addStretch();
        return;
    }
    add_pose(*part);
    add_marks(*part);
    add_supports(*part);
    body()->addWidget(make_heading("Brim and raft", foot_word(part->supports.options), this));
    add_foot_rows(this, session_, *part);
    add_stop_rows(this, session_, *part);
    add_band_rows(this, session_, *part);
    add_beds_section(this, session_, *part);
    body()->addStretch();
}

void BedPanel::add_pose(const Part& part) {
    const PartAnalysis* mine = session_->results().analysis() ? session_->results().analysis()->part(part.id) : nullptr;
    body()->addWidget(make_heading("Pose", QString::fromStdString(part.name), this));
    QString lies = part.pose.face
                       ? "Lies on its " + QString::fromStdString(tag_words(part.pose.face->primary)) + " face."
                   : part.pose.down.isApprox(Vec3(0, 0, -1)) ? "Lies as it was drawn."
                   : part.pose.down.isApprox(Vec3(0, 0, 1))  ? "Lies turned over."
                                                             : "Lies turned.";
    body()->addWidget(make_note(lies + " Click a flat face in the view and take Lay on the bed, or turn it by numbers.",
                                false, this));
    if (mine && !mine->pose_note.empty())
        body()->addWidget(make_note(QString::fromStdString(mine->pose_note), true, this));
    for (int axis = 0; axis < 3; ++axis) {
        ValueRow row = make_value_row(QString("Turn about %1").arg("xyz"[axis]),
                                      "after laying it down; about the bed's axes", this);
        QString text = QString::fromStdString(part.pose.turn[size_t(axis)]);
        auto value = evaluate_expression(text.toStdString(), QuantityKind::Angle, session_->results().values());
        row.field->set_value(value ? QString::fromStdString(format_quantity(*value, QuantityKind::Angle)) : text, text);
        row.field->set_check(
            [this](const QString& typed) { return explain_typed(*session_, typed, QuantityKind::Angle); });
        row.field->set_stepping(true);
        auto set = [this, axis, field = row.field](const std::string& typed) {
            PartPtr now = session_->project()->part(session_->workspace().active_part());
            if (!now) return;
            PrintPose pose = now->pose;
            pose.turn[size_t(axis)] = typed;
            QPointer<ValueField> alive(field);
            auto wrong = session_->document().edit(SetPose{now->id, pose}, true);
            if (!alive) return;
            if (wrong)
                field->refuse(QString::fromStdString(wrong->text()));
            else
                field->accept();
        };
        connect(row.field, &ValueField::submitted, this, [this, set, field = row.field](const QString& typed) {
            // Refused here, where the field still stands: a rebuild would take the message with it.
            auto checked = explain_typed(*session_, typed, QuantityKind::Angle);
            if (checked.second) return field->refuse(checked.first);
            set(typed.toStdString());
            if (field->editing()) field->accept();
        });
        connect(row.field, &ValueField::stepped, this,
                [set, now = value.value_or(0)](double by) { set(format_number(now + by * 5) + " deg"); });
        turns_[size_t(axis)] = row.field;
        body()->addWidget(row.row);
    }
    if (!mine) return;
    Vec3 size = bounding_box(*mine->posed).sizes();
    QString facts = QString::fromStdString(format_number(size.x(), 1) + " x " + format_number(size.y(), 1) + " x " +
                                           format_number(size.z(), 1) + " mm on the bed, standing on " +
                                           format_number(mine->inspection.bed_contact_area_mm2 / 100, 1) + " cm², " +
                                           format_number(mine->inspection.overhang_area_mm2 / 100, 1) + " cm² hang");
    body()->addWidget(make_note(facts + (mine->inspection.fits_bed ? "" : "; too big for the bed") +
                                    (mine->inspection.tips_over.value_or(false) ? "; it tips over" : "") + ".",
                                !mine->inspection.fits_bed || mine->inspection.tips_over.value_or(false), this));
    for (const Finding& finding : mine->inspection.findings)
        if (finding.kind == FindingKind::Slender)
            body()->addWidget(make_note(as_shown(QString::fromStdString(finding.says)), true, this));
    add_use_rows(this, session_, part);
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 4, theme::margin, 4);
    auto* compare = new QPushButton("Compare ways up", row);
    compare->setToolTip("Other ways it could lie, side by side, with what each costs");
    connect(compare, &QPushButton::clicked, session_, [s = session_] { emit s->poses_wanted(); });
    box->addWidget(compare);
    body()->addWidget(row);
}

/// Faces of which something is wanted in print.
void BedPanel::add_marks(const Part& part) {
    const PartResult* made =
        session_->results().evaluation() ? session_->results().evaluation()->part(part.id) : nullptr;
    body()->addWidget(make_heading("Marked faces",
                                   !part.marks.empty()     ? QString::number(part.marks.size())
                                   : !part.brushed.empty() ? "brushed"
                                                           : "none",
                                   this));
    if (part.marks.empty() && !can_brush(*session_))
        body()->addWidget(
            make_note("Choose faces and mark them: seen, mating, never supported, supported.", false, this));
    const FoundMarks found = made ? find_marks(part, *made) : FoundMarks();
    for (size_t i = 0; i < part.marks.size(); ++i) {
        const bool lost = std::count(found.lost.begin(), found.lost.end(), i) > 0;
        auto* row = new QWidget(this);
        auto* box = new QHBoxLayout(row);
        box->setContentsMargins(theme::margin, 0, theme::margin, 0);
        const QString words = QString::fromStdString(face_words(part.marks[i])) + (lost ? ", gone" : "");
        auto* label = new QLabel(words, row);
        if (lost) label->setStyleSheet(QString("color: %1").arg(theme::css(Role::Wrong)));
        auto* off = new QPushButton("Take off", row);
        off->setFlat(true);
        off->setAccessibleName("Take the mark off: " + words);
        connect(
            off, &QPushButton::clicked, session_, [s = session_, id = part.id, i] { take_mark_off(*s, id, i); },
            Qt::QueuedConnection);
        box->addWidget(label, 1);
        box->addWidget(off);
        body()->addWidget(row);
    }
    add_brush(part, found);
}

/// What marks triangles, and how much of the part it has marked.
void BedPanel::add_brush(const Part& part, const FoundMarks& found) {
    if (!can_brush(*session_) && part.brushed.empty()) return;
    const auto brush = session_->workspace().brush();
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 2, theme::margin, 2);
    box->addWidget(new QLabel("Brush", row), 1);
    auto* choice = new QComboBox(row);
    choice->setAccessibleName("Brush");
    choice->addItem("put away");
    for (int i = 0; i < face_marks; ++i) choice->addItem(words_of(FaceMark(i)));
    choice->addItem("wipes off");
    choice->setCurrentIndex(!brush ? 0 : brush->mark ? 1 + int(*brush->mark) : 1 + face_marks);
    connect(
        choice, &QComboBox::activated, session_,
        [s = session_](int which) {
            if (which == 0) return s->workspace().take_brush(std::nullopt);
            if (auto wrong = take_brush(*s, which <= face_marks ? std::optional(FaceMark(which - 1)) : std::nullopt))
                s->say(*wrong, true);
        },
        Qt::QueuedConnection);
    box->addWidget(choice);
    body()->addWidget(row);
    if (brush) {
        ValueRow across = make_value_row("Across", "of the brush; + and - change it in the view", this);
        bind_number(session_, across, 2 * brush->radius_mm, QuantityKind::Length, {},
                    [s = session_](const std::string& typed) -> std::optional<Problem> {
                        auto wide = typed_number(*s, typed, QuantityKind::Length);
                        if (!wide) return wide.error();
                        if (auto wrong = check_dabs({BrushDab{Vec3::Zero(), Vec3::UnitZ(), *wide / 2, {}}}))
                            return wrong;
                        if (auto now = s->workspace().brush()) {
                            now->radius_mm = *wide / 2;
                            s->workspace().take_brush(now);
                        }
                        return std::nullopt;
                    });
        body()->addWidget(across.row);
        body()->addWidget(
            make_note("Draw over the part, or lead the ring by the arrow keys and press Space. Escape puts "
                      "it away.",
                      false, this));
    }
    QStringList areas;
    for (int i = 0; i < face_marks; ++i)
        if (const double mm2 = found.brushed_mm2[size_t(i)]; mm2 > 0)
            areas << QString("%1 on %2").arg(words_of(FaceMark(i)), area_words(mm2));
    if (part.brushed.empty()) return;
    auto* all = new QWidget(this);
    auto* line = new QHBoxLayout(all);
    line->setContentsMargins(theme::margin, 0, theme::margin, 0);
    const QString words = found.brush_lost  ? QString("Brushed: gone")
                          : areas.isEmpty() ? QString("Brushed: nothing is left")
                                            : "Brushed: " + areas.join(", ");
    auto* label = new QLabel(words, all);
    label->setWordWrap(true);
    if (found.brush_lost) label->setStyleSheet(QString("color: %1").arg(theme::css(Role::Wrong)));
    auto* off = new QPushButton("Wipe all", all);
    off->setFlat(true);
    off->setAccessibleName("Wipe off all that was brushed");
    connect(
        off, &QPushButton::clicked, session_, [s = session_, id = part.id] { wipe_all(*s, id); }, Qt::QueuedConnection);
    line->addWidget(label, 1);
    line->addWidget(off);
    body()->addWidget(all);
}

void BedPanel::add_supports(const Part& part) {
    const PartAnalysis* mine = session_->results().analysis() ? session_->results().analysis()->part(part.id) : nullptr;
    const size_t count = mine ? mine->supports.count() : 0;
    const QString how_many = mine ? QString::fromStdString(mine->supports.says_how_many()) : QString();
    body()->addWidget(make_heading("Supports", part.supports.on ? how_many : "none", this));
    add_support_kinds(part);
    struct Line {
        const char* name;
        QString hint;
        const char* key;
    };
    const SupportOptions now = support_options(*session_->project(), part);
    const bool trees = now.kind == SupportKind::Trees;
    std::vector<Line> lines;
    if (now.gap_layers == 0)
        lines.push_back({"Gap under the part", "air between a tip and what it carries", "contact_gap_mm"});
    const QString air = as_shown(format_number(now.gap_mm(), 2) + " mm") + " of air under what is carried; ";
    lines.insert(
        lines.end(),
        {{"Gap, layers",
          now.gap_layers > 0 ? air + "0: a length of its own" : QString("as layers of the print; 0: the length above"),
          "gap_layers"},
         {"Between tips", "under large flat areas", "spacing_mm"},
         {trees ? "Branch" : "Post", trees ? "twice the thinnest branch" : "across the shaft", "post_mm"},
         {"Tip", "across the tip", "tip_mm"},
         {"Neck",
          trees ? "height over which a tip widens into its branch" : "height over which the tip widens into the shaft",
          "neck_mm"},
         {"Foot, wider by", "all round on the bed, where there is room", "foot_mm"},
         {"Interface, layers", "a closed floor on the tips: smoother above, harder to take off; 0: none",
          "interface_layers"}});
    for (const Line& line : lines) {
        ValueRow row = make_value_row(line.name, line.hint, this);
        bind_number(session_, row, "supports " + std::to_string(part.id.value) + " " + line.key);
        body()->addWidget(row.row);
    }
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 8, theme::margin, 4);
    supports_ = new QPushButton(part.supports.on ? "Take supports away" : "Put supports in", row);
    supports_->setProperty("primary", !part.supports.on);
    connect(supports_, &QPushButton::clicked, session_, [s = session_, id = part.id, settings = part.supports] {
        SupportSettings next = settings;
        next.on = !next.on;
        s->document().edit(SetSupports{id, next});
    });
    box->addWidget(supports_);
    body()->addWidget(row);
    if (part.supports.on && mine) {
        double volume = mine->supports.mesh.empty() ? 0 : mass_properties(mine->supports.mesh).volume_mm3 / 1000;
        QString says = count
                           ? QString("%1, %2 cm³ of plastic to throw away. They are exported as objects of their own.")
                                 .arg(how_many, QString::fromStdString(format_number(volume, 2)))
                           : QString("Nothing hangs that needs one.");
        if (mine->supports.interface_mm2 > 0)
            says += QString(" %1 lie over a closed floor.").arg(area_words(mine->supports.interface_mm2));
        bool lacks = mine->supports.left_out > 0;
        if (trees) // a place that no tip reaches is no matter where others reach what hangs there
            lacks = mine->supports.out_of_reach_mm2 > 1;
        if (lacks)
            says +=
                trees ? QString(" %1 mm² hang that no tip carries.")
                            .arg(QString::fromStdString(format_number(mine->supports.out_of_reach_mm2, 0)))
                      : QString(" Under %1 hanging patches there is no room for a post.").arg(mine->supports.left_out);
        body()->addWidget(make_note(says, lacks, this));
        add_by_hand(part, mine->supports);
        if (mine->supports.kept_off_mm2 > 1)
            body()->addWidget(make_note(QString("%1 mm² hang on faces that no support may touch.")
                                            .arg(QString::fromStdString(format_number(mine->supports.kept_off_mm2, 0))),
                                        true, this));
    }
}

/// How many single ones were put in and taken away, and the way back.
void BedPanel::add_by_hand(const Part& part, const Supports& supports) {
    const auto& changes = part.supports.changes;
    if (changes.empty()) return;
    const auto put = std::count_if(changes.begin(), changes.end(), [](const SupportChange& c) { return c.added; });
    const auto gone = std::ptrdiff_t(changes.size()) - put;
    QStringList words;
    if (put) words << QString("%1 put in by hand").arg(put);
    if (gone) words << QString("%1 taken away").arg(gone);
    QString says = words.join(", ") + ".";
    if (supports.not_put)
        says += QString(" Of those put in %1 %2 no room or nothing to carry.")
                    .arg(supports.not_put)
                    .arg(supports.not_put == 1 ? "has" : "have");
    body()->addWidget(make_note(says, supports.not_put > 0, this));
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 0, theme::margin, 0);
    auto* back = new QPushButton("As worked out", row);
    back->setFlat(true);
    back->setToolTip("Drops every support put in or taken away by hand");
    connect(back, &QPushButton::clicked, session_, [s = session_] { forget_single_supports(*s); });
    box->addWidget(back);
    box->addStretch();
    body()->addWidget(row);
}

void BedPanel::add_support_kinds(const Part& part) {
    auto* row = new QWidget(this);
    auto* box = new QHBoxLayout(row);
    box->setContentsMargins(theme::margin, 4, theme::margin, 4);
    for (auto [kind, words, hint] :
         {std::tuple(SupportKind::Posts, "Posts", "upright, each under one place: stiff, quickly made"),
          std::tuple(SupportKind::Trees, "Trees",
                     "fine tips on branches that lean together: less plastic, few feet")}) {
        auto* choice = new QRadioButton(words, row);
        choice->setToolTip(hint);
        choice->setAccessibleDescription(hint);
        choice->setChecked(part.supports.options.kind == kind);
        connect(choice, &QRadioButton::clicked, session_, [s = session_, id = part.id, kind = kind] {
            PartPtr now = s->project()->part(id);
            if (!now || now->supports.options.kind == kind) return;
            SupportSettings next = now->supports;
            next.options.kind = kind;
            s->document().edit(SetSupports{id, next});
        });
        kinds_[size_t(kind)] = choice;
        box->addWidget(choice);
    }
    box->addStretch();
    body()->addWidget(row);
}

} // namespace lp
