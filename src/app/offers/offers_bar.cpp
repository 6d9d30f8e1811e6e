#include "app/offers/offers_bar.h"
#include "app/bed_stands.h"
#include "app/given_names.h"
#include "app/load_way.h"
#include "app/mark_faces.h"
#include "app/offers/act_panel.h"
#include "app/offers/selection_fields.h"
#include "app/outline/outline_editor.h"
#include "app/panels/fit_panel.h"
#include "app/seat_part.h"
#include "app/sheet/build_sheet.h"
#include "app/sheet/shelf.h"
#include "app/single_supports.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/text.h"
#include "project/contact_words.h"
#include "project/gauge_part.h"
#include "project/seating.h"
#include "steps/find_plane.h"
#include "steps/meshes/mend.h"
#include <QApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPushButton>

namespace lp {

using theme::Role;

namespace {

/// Words and the digit that takes it, as a key.
class OfferButton : public QPushButton {
  public:
    OfferButton(const QString& words, int number, QWidget* parent)
        : QPushButton(parent), words_(words), number_(number) {
        setFont(theme::words(13.5, QFont::DemiBold));
        setFixedSize(QFontMetrics(font()).horizontalAdvance(words) + 50, 30);
    }

  protected:
    void paintEvent(QPaintEvent* event) override {
        QPushButton::paintEvent(event);
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(theme::colour(Role::Ink));
        p.setFont(font());
        p.drawText(QRectF(11, 0, width() - 40, height()), Qt::AlignVCenter, words_);
        QRectF key(width() - 29, height() / 2.0 - 8, 18, 16);
        p.setPen(theme::colour(Role::Line));
        p.setBrush(theme::colour(Role::Key));
        p.drawRoundedRect(key, 3, 3);
        p.setPen(theme::colour(Role::SoftInk));
        p.setFont(theme::numbers(11));
        p.drawText(key, Qt::AlignCenter, QString::number(number_));
    }

  private:
    QString words_;
    int number_;
};

} // namespace

void OffersBar::resizeEvent(QResizeEvent*) {
    refresh();
}

OffersBar::OffersBar(Session* session, QWidget* view, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedHeight(theme::offers_height);
    setAccessibleName("Offers");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(10, 0, 10, 0);
    row->setSpacing(8);
    label_ = new QLabel(this);
    label_->setFont(theme::numbers(12));
    label_->setStyleSheet(QString("color: %1").arg(theme::css(Role::SoftInk)));
    row->addWidget(label_);
    buttons_ = new QWidget(this);
    button_row_ = new QHBoxLayout(buttons_);
    button_row_->setContentsMargins(0, 0, 0, 0);
    button_row_->setSpacing(6);
    row->addWidget(buttons_);
    row->addStretch();
    open_ = new QPushButton("All that can be done  /", this);
    open_->setFlat(true);
    open_->setToolTip("Opens everything there is, by groups and by words; numbers may follow the words");
    open_->setStyleSheet(QString("color: %1; font-weight: 500;").arg(theme::css(Role::SoftInk)));
    row->addWidget(open_);
    panel_ = new ActPanel(this, view);
    connect(open_, &QPushButton::clicked, this, &OffersBar::open_panel);
    connect(panel_, &ActPanel::keys_back, this, &OffersBar::view_wanted);
    connect(&session->document(), &Document::project_changed, this, &OffersBar::refresh);
    for (auto fact : {&Workspace::selection_changed, &Workspace::active_part_changed, &Workspace::stretch_changed,
                      &Workspace::contact_changed, &Workspace::support_changed})
        connect(&session->workspace(), fact, this, &OffersBar::refresh);
    for (auto fact : {&Results::analysed, &Results::measured, &Results::cures_tried})
        connect(&session->results(), fact, this, &OffersBar::refresh);
    refresh();
}

void OffersBar::open_panel() {
    panel_->open();
}

void OffersBar::take(int number) {
    if (number >= 1 && size_t(number) <= offers_.size()) {
        auto run = offers_[size_t(number) - 1].run; // running may refresh the list
        run();
    }
}

QString OffersBar::description() const {
    return label_->text();
}

PartId OffersBar::part_to_build() {
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    if (part) return part->id;
    Part fresh;
    fresh.name = free_part_name(*session_->project(), given_part_name);
    session_->document().edit(AddPart{fresh});
    session_->workspace().set_active_part(session_->project()->parts.back()->id);
    return session_->workspace().active_part();
}

void OffersBar::add_part(bool stand_in) {
    session_->workspace().clear_selection(); // what follows goes to the new one
    Part fresh;
    fresh.stand_in = stand_in;
    fresh.name = free_part_name(*session_->project(), stand_in ? given_stand_in_name : given_part_name);
    const auto printed = std::count_if(session_->project()->parts.begin(), session_->project()->parts.end(),
                                       [](const PartPtr& part) { return !part->stand_in; });
    fresh.colour = filament_colours()[size_t(printed) % filament_colours().size()].second; // told apart at a glance
    if (!session_->document().edit(AddPart{fresh}))
        session_->workspace().set_active_part(session_->project()->parts.back()->id);
}

void OffersBar::offer_for_nothing() {
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    label_->setText(part ? "add to " + QString::fromStdString(part->name) : "nothing here yet");
    offer_steps(Chosen::Nothing, 0, 80);
    offers_.push_back({"New part", [this] { add_part(false); }, "Another printed part"});
    offers_.push_back({"New stand-in", [this] { add_part(true); },
                       "A bought thing by its measured sizes: shown and cut with, never printed"});
}

/// A new drawing on a plane or face, opened in the view; an empty plane is the kind's own.
void OffersBar::draw_on(PartId part, const StepKind& kind, const std::string& plane) {
    std::map<std::string, std::string> fields;
    if (const StepField* on = kind.field_of(FieldKind::Plane); on && !plane.empty()) fields[on->name] = plane;
    if (!session_->document().edit(AddStep{part, step_of_kind(kind.id, fields), {}}))
        session_->draw_outline(part, session_->project()->part(part)->steps.back().id);
}

void OffersBar::set_outline(OutlineEditor* editor) {
    outline_ = editor;
    connect(editor, &OutlineEditor::changed, this, &OffersBar::refresh);
}

void OffersBar::offer_for_face(const Pick& pick) {
    const FaceInfo* face = session_->results().face_of(pick);
    if (!face) return;
    label_->setText(selection_words(*session_));
    PartPtr part = session_->project()->part(pick.part);
    if (face->kind == SurfaceKind::Plane && part && !part->stand_in)
        offers_.push_back({"Lay on the bed",
                           [this, pick] {
                               const FaceInfo* f = session_->results().face_of(pick);
                               PartPtr p = session_->project()->part(pick.part);
                               if (!f || !p) return;
                               PrintPose pose = p->pose;
                               pose.down = f->direction;
                               pose.turn = {"0 deg", "0 deg", "0 deg"};
                               pose.face = make_reference(*session_->results().body_of(pick), pick.index, pick.point);
                               if (!session_->document().edit(SetPose{pick.part, pose}))
                                   session_->workspace().set_stretch(Stretch::Bed);
                           },
                           "This face goes down when the part is printed"});
    if (session_->workspace().stretch() == Stretch::Bed) {
        offer_marks();
        if (const auto place = part ? place_to_carry(*session_, pick) : std::nullopt)
            offers_.push_back({"Support here", [this, place = *place] { put_support_in(*session_, place); },
                               "A post or a tip under the place that was picked"});
        if (chosen_way(*session_))
            offers_.push_back({"Pulled this way",
                               [this] {
                                   if (auto wrong = pull_along_chosen(*session_)) session_->say(*wrong, true);
                               },
                               "The load in use: ways up in which it pulls the layers apart cost more"});
    }
    bool shapes =
        part && !part->stand_in && session_->results().body_of(pick) && session_->results().body_of(pick)->is_exact();
    offer_steps(Chosen::Face, 0, 90);
    if (shapes && session_->workspace().stretch() == Stretch::Shape) offer_more_for_face();
    if (!shapes && session_->workspace().stretch() == Stretch::Shape) offer_more_faces();
    offers_.push_back({"Fit view", [this] { emit fit_view_wanted(); }, "Brings it close"});
}

/// What one part does to another: the host gets the step, the other fills the field that wants it.
void OffersBar::offer_between(const Part& other, const Part& host) {
    for (auto [kind, offer] : step_offers(Chosen::TwoParts)) {
        QString words = QString::fromStdString(offer->words);
        words.replace("{part}", QString::fromStdString(host.name))
            .replace("{other}", QString::fromStdString(other.name));
        auto fields = offer->fields;
        for (const StepField& field : kind->fields)
            if (field.filler == Filler::OtherPart) fields[field.name] = other.name;
        offers_.push_back({words,
                           [this, kind = kind, fields, id = host.id] { add_step(session_, id, kind->id, fields); },
                           QString::fromStdString(offer->hint)});
    }
}

void OffersBar::offer_for_two() {
    const auto& picks = session_->workspace().selection();
    label_->setText(selection_words(*session_));
    PartPtr a = session_->project()->part(picks[0].part), b = session_->project()->part(picks[1].part);
    const bool in_assembly =
        session_->workspace().stretch() == Stretch::Shape || session_->workspace().stretch() == Stretch::Fit;
    if (const auto seat = in_assembly ? chosen_seat(*session_) : std::nullopt)
        offers_.push_back({seat_words(*session_, *seat),
                           [this] {
                               if (auto wrong = seat_chosen(*session_)) session_->say(*wrong, true);
                           },
                           "It stands there in the assembly and follows both; its drawing stays as it is"});
    if (a && b && a != b)
        for (auto [other, host] : {std::pair(a, b), std::pair(b, a)})
            if (!host->stand_in) offer_between(*other, *host);
    const bool two_bodies = a && a == b && picks[0].body != picks[1].body;
    auto all = [&](auto wanted) { return std::all_of(picks.begin(), picks.end(), wanted); };
    if (two_bodies && all([](const Pick& p) { return p.kind == Pick::Kind::Face; }))
        offer_steps(Chosen::TwoFaces, 0, 100);
    if (two_bodies && all([](const Pick& p) { return p.kind == Pick::Kind::Edge || p.kind == Pick::Kind::Face; }))
        offer_steps(Chosen::TwoThings, 0, 100);
    offer_to_keep_measure();
    offers_.push_back({"Fit view", [this] { emit fit_view_wanted(); }, "Brings both close"});
}

/// What is measured of the selection stays in the view and the ledger, and follows the model.
void OffersBar::offer_to_keep_measure() {
    const auto picks = session_->workspace().selection();
    bool wall = picks.size() == 1 && picks[0].kind == Pick::Kind::Face;
    if (!wall && picks.size() != 2) return;
    offers_.push_back({wall ? "Keep the wall measured" : "Keep it measured",
                       [this, picks] {
                           KeptMeasure measure;
                           measure.a = session_->results().thing_of(picks[0]);
                           if (picks.size() == 2) measure.b = session_->results().thing_of(picks[1]);
                           session_->document().edit(AddMeasure{measure});
                       },
                       "The number stays in the view and the ledger and follows every change"});
}

void OffersBar::offer_for_contact() {
    const ContactResult* active = session_->results().active_contact();
    if (!active) return;
    const ContactResult c = *active;
    label_->setText(QString::fromStdString(contact_title(c)));
    if (has_way(*session_->project(), c))
        offers_.push_back({"Lead it along its way", [this, c] { lead_along_way(*session_, c); },
                           "The movement check leads one part along the groove of the other, from where it stands"});
    bool mapped = session_->workspace().gap_map_wanted();
    offers_.push_back({mapped ? "Map off" : "Map the gap",
                       [this, mapped] { session_->workspace().want_gap_map(!mapped); },
                       "Colours the surface by its gap, with contour lines"});
    offers_.push_back(
        {"Test piece",
         [this, parts = std::vector{c.part_a, c.part_b},
          at = c.gap ? Vec3((c.gap->at_a + c.gap->at_b) / 2) : Vec3(Vec3::Zero())] {
             auto piece = test_piece(without_seats(*session_->results().evaluation()), parts, at, {30, 30, 30});
             if (!piece) return session_->say(QString::fromStdString(piece.error().text()), true);
             piece->name = free_part_name(*session_->project(), piece->name);
             Edit edit = AddPart{*piece};
             edit.sentence = "Cut out a " + piece->name;
             if (session_->document().edit(edit)) return;
             session_->workspace().set_stretch(Stretch::Shape);
             session_->workspace().set_active_part(session_->project()->parts.back()->id);
         },
         "Both sides round this place as a small part of their own, to print first"});
    for (const NamedFit& fit : session_->project()->fits) {
        QString words =
            QString::fromStdString(fit.name) + " " + as_shown(format_fixed(fit.gap_mm, 2) + " mm").chopped(3);
        offers_.push_back(
            {words,
             [this, c, name = fit.name] {
                 if (auto wrong = give_fit(*session_, c, name))
                     session_->say(QString::fromStdString(wrong->text()), true);
             },
             c.step ? "Opens or closes the gap to this fit" : "Says which gap is wanted here; nothing is cut"});
    }
    if (!c.step && c.wanted)
        offers_.push_back({"No fit wanted",
                           [this, a = c.a, b = c.b] {
                               session_->document().edit(SetContact{a, b, ""});
                           },
                           "Takes the wish away"});
}

/// What is wanted of the chosen faces in print.
void OffersBar::offer_marks() {
    if (faces_to_mark(*session_).empty()) return;
    offers_.push_back({"Mark …",
                       [this] {
                           auto* menu = new QMenu(this);
                           menu->setAttribute(Qt::WA_DeleteOnClose);
                           const auto now = chosen_mark(*session_);
                           auto add = [&](const QString& words, std::optional<FaceMark> mark) {
                               QAction* entry = menu->addAction(words);
                               connect(entry, &QAction::triggered, this, [this, mark] {
                                   if (auto wrong = mark_chosen(*session_, mark)) session_->say(*wrong, true);
                               });
                               entry->setCheckable(true);
                               entry->setChecked(mark && now == mark);
                           };
                           for (int i = 0; i < face_marks; ++i)
                               add(QString(words_of(FaceMark(i))) + " – " + about_mark(FaceMark(i)), FaceMark(i));
                           menu->addSeparator();
                           add("no mark", std::nullopt);
                           menu->popup(mapToGlobal(QPoint(width() / 4, 0)));
                       },
                       "What is wanted of it in print: seen, mating, never supported, supported"});
}

/// What a picked face or edge can lead its body along.
void OffersBar::offer_movements(const Pick& pick) {
    const FaceInfo* face = session_->results().face_of(pick);
    bool round = face ? has_axis(*face) : pick.kind == Pick::Kind::Edge;
    bool flat = face ? face->kind == SurfaceKind::Plane : pick.kind == Pick::Kind::Edge;
    auto add = [&](const char* kind, const QString& words, const QString& hint) {
        offers_.push_back({words,
                           [this, pick, kind] {
                               auto movement = movement_from_pick(*session_, pick, *find_movement_kind(kind));
                               if (!movement) return session_->say("There is no body to move here.", true);
                               if (session_->document().edit(AddMovement{*movement})) return;
                               session_->workspace().set_stretch(Stretch::Fit);
                           },
                           hint});
    };
    if (round) add("turn", "Turn it about this", "Is led round in the movement check");
    if (round || flat) add("slide", "Slide it along this", "Is led along in the movement check");
}

void OffersBar::refresh() {
    offers_.clear();
    const auto& picks = session_->workspace().selection();
    const Stretch stretch = session_->workspace().stretch();
    if (outline_ && outline_->active()) {
        offers_ = outline_->offers();
        label_->setText(outline_->words());
    } else if (stretch == Stretch::Fit && session_->results().active_contact())
        offer_for_contact();
    else if (picks.size() == 1 && picks[0].kind == Pick::Kind::Face) {
        if (stretch == Stretch::Fit) offer_movements(picks[0]);
        offer_for_face(picks[0]);
    } else if (stretch == Stretch::Bed && picks.size() > 1 && !faces_to_mark(*session_).empty()) {
        label_->setText(QString("%1 faces").arg(picks.size()));
        offer_marks();
    } else if (offer_for_edges() || offer_for_faces()) {
        if (stretch == Stretch::Fit && picks.size() == 1) { // there it is led along first, as a face is
            std::vector<Offer> shaping = std::exchange(offers_, {});
            offer_movements(picks[0]);
            offers_.insert(offers_.end(), shaping.begin(), shaping.end());
        }
    } else if (picks.size() == 2)
        offer_for_two();
    else if (picks.size() == 1)
        offer_for_body(picks[0]);
    else if (picks.size() > 2)
        label_->setText(QString::number(picks.size()) + " things chosen");
    else if (stretch == Stretch::Check)
        offer_for_check();
    else if (stretch == Stretch::Bed)
        offer_for_bed();
    else if (stretch == Stretch::Export) {
        label_->setText("files for the slicer");
        offers_.push_back({"Export …", [this] { emit export_wanted(); }, "Writes the files and reads them back"});
    } else
        offer_for_nothing();
    show_buttons();
}

void OffersBar::offer_for_body(const Pick& pick) {
    const PartResult* part =
        session_->results().evaluation() ? session_->results().evaluation()->part(pick.part) : nullptr;
    PartPtr its = session_->project()->part(pick.part);
    if (!part || !part->mesh || !its) return;
    Vec3 size = part->box.sizes();
    label_->setText(QString::fromStdString(part->name) + " · " +
                    as_shown(format_number(size.x(), 1) + " x " + format_number(size.y(), 1) + " x " +
                             format_number(size.z(), 1) + " mm"));
    if (session_->workspace().stretch() == Stretch::Shape && !its->stand_in) {
        offer_steps(Chosen::Body, 0, 100);
        if (part->bodies.size() > 1) offer_steps(Chosen::Body2, 0, 100);
    }
    offers_.push_back({its->see_through ? "Make solid" : "See through",
                       [this, id = its->id, on = !its->see_through] {
                           session_->document().edit(SetSeeThrough{id, on});
                       },
                       ""});
    offers_.push_back({"Hide", [this, id = its->id] { session_->document().edit(SetVisible{id, false}); }, ""});
    offers_.push_back({"Fit view", [this] { emit fit_view_wanted(); }, "Brings it close"});
}

void OffersBar::offer_for_check() {
    const Analysis* analysis = session_->results().analysis();
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    const PartAnalysis* mine = analysis && part ? analysis->part(part->id) : nullptr;
    if (!mine) return label_->setText("choose a part to check");
    const Evaluation& evaluation = *session_->results().evaluation();
    size_t found = findings_of_part(evaluation, analysis, part->id).size();
    label_->setText(found ? QString::fromStdString(counted(found, "finding", "findings"))
                          : QString("nothing is wrong with it"));
    for (const TriedCure& tried : session_->results().cures())
        offers_.push_back({QString::fromStdString(tried.cure.words + " · " + tried.cure.place),
                           [this, edit = tried.cure.edit] { session_->document().edit(edit); },
                           as_shown(QString::fromStdString(tried.says + " " + tried.cure.hint))});
    if (wants_mending(evaluation, *analysis, part->id))
        offers_.push_back({"Mend " + QString::fromStdString(part->name),
                           [this, id = part->id] { add_step(session_, id, mend_before().add_step); },
                           "Welds, turns and closes it; one step that can be undone"});
    if (mine->inspection.overhang_area_mm2 <= 0) return;
    offers_.push_back({"Turn the part", [this] { session_->workspace().set_stretch(Stretch::Bed); },
                       "Another face down may hang less"});
    if (!part->supports.on)
        offers_.push_back({"Put supports in", [this] { switch_supports(); }, "Posts or trees under what hangs"});
}

/// Supports under what hangs, put in or taken away, where they are seen.
void OffersBar::switch_supports() {
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    if (!part) return session_->say("Choose a part first.", true);
    SupportSettings s = part->supports;
    s.on = !s.on;
    if (!session_->document().edit(SetSupports{part->id, s})) session_->workspace().set_stretch(Stretch::Bed);
}

void OffersBar::offer_for_bed() {
    label_->setText("pick a flat face to lay it down");
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    if (!part || part->stand_in) return;
    if (const auto place = session_->workspace().active_support()) {
        label_->setText("one support");
        offers_.push_back({"Take it away", [this, place = *place] { take_support_away(*session_, place); },
                           "What it carried hangs then; Delete does the same"});
        offers_.push_back({"Next support", [this] { choose_next_support(*session_); }, "The one beside it"});
        return;
    }
    offers_.push_back({part->supports.on ? "Take supports away" : "Put supports in", [this] { switch_supports(); },
                       "Posts or trees under what hangs"});
    offers_.push_back({"Arrange everything", [this] { arrange_everything(*session_); },
                       "All parts on as few beds as they need, round what stays"});
    offers_.push_back({"Turn over",
                       [this, part] {
                           PrintPose pose = part->pose;
                           pose.down = -pose.down;
                           pose.face.reset();
                           session_->document().edit(SetPose{part->id, pose});
                       },
                       "What was up goes down"});
    offers_.push_back({"Compare ways up", [this] { emit session_->poses_wanted(); },
                       "Other ways it could lie, side by side, with what each costs"});
}

/// As many as have room; the others go by the typed line and their digits.
void OffersBar::show_buttons() {
    while (QLayoutItem* item = button_row_->takeAt(0)) {
        if (item->widget()) {
            item->widget()->hide();
            item->widget()->deleteLater();
        }
        delete item;
    }
    // A narrow row keeps its buttons: words that have no room stand in the tip.
    const bool narrow = width() < 640;
    open_->setText(narrow ? "All  /" : "All that can be done  /");
    open_->setAccessibleName("All that can be done");
    const int words = QFontMetrics(label_->font()).horizontalAdvance(label_->text());
    label_->setMaximumWidth(narrow ? width() / 4 : QWIDGETSIZE_MAX);
    label_->setToolTip(label_->text());
    if (narrow) label_->setText(QFontMetrics(label_->font()).elidedText(label_->text(), Qt::ElideRight, width() / 4));
    const QMargins edges = layout()->contentsMargins();
    const int beside = open_->sizeHint().width() + edges.left() + edges.right() + 3 * layout()->spacing();
    const int room = width() - beside - (narrow ? std::min(words, width() / 4) : words);
    int used = 0;
    for (size_t i = 0; i < offers_.size() && i < 9; ++i) {
        auto* button = new OfferButton(offers_[i].words, int(i) + 1, buttons_);
        button->setToolTip(offers_[i].hint + (offers_[i].hint.isEmpty() ? "" : "\n") + "with the view in focus, key " +
                           QString::number(i + 1));
        button->setAccessibleName(offers_[i].words);
        used += button->width() + 6;
        if (i > 0 && used > room && width() > 300) {
            delete button; // the typed line still finds it, and its digit still works
            break;
        }
        connect(button, &QPushButton::clicked, this, [this, i] { take(int(i) + 1); });
        button_row_->addWidget(button);
    }
}

std::optional<QString> OffersBar::do_line(const QString& raw) {
    QString line = raw.trimmed();
    if (line.isEmpty()) return std::nullopt;
    if (outline_)
        if (auto drawn = outline_->do_line(line)) return drawn->isEmpty() ? std::nullopt : drawn;
    for (const Offer& command : offers_)
        if (command.words.compare(line, Qt::CaseInsensitive) == 0) {
            auto run = command.run; // running may refresh the list
            run();
            return std::nullopt;
        }
    // A kind of step, then its numbers in order, then words that are choices of its fields.
    QStringList words = line.split(' ', Qt::SkipEmptyParts);
    for (const StepKind& kind : step_kinds()) {
        QString title = QString::fromStdString(kind.title).toLower();
        QStringList title_words = title.split(' ');
        if (words.size() < title_words.size() || words.mid(0, title_words.size()).join(' ').toLower() != title)
            continue;
        if (kind.asks_for_file) {
            emit bring_in_wanted();
            return std::nullopt;
        }
        return add_filled_in(kind, words.mid(title_words.size()), fields_from_selection(*session_, kind));
    }
    return "Nothing here is called \"" + line + "\". Try block, cylinder 6 20 cut, undo or one of the offers.";
}

} // namespace lp
