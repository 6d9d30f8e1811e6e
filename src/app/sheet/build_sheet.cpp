#include "app/sheet/build_sheet.h"
#include "app/panels/readings_line.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include <QAction>
#include <QApplication>
#include <QElapsedTimer>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>

namespace lp {

using theme::Role;

constexpr size_t short_sheet = 24; ///< rows that are made in one go
constexpr size_t rows_at_once = 4; ///< of a longer one; the rest follows while it is painted
constexpr size_t page_rows = 8;    ///< laid out and painted together
constexpr qint64 slice_ms = 5;

/// Rows one below the other. A scrolled column asks for its height at two widths in turn, with and without the scroll
/// bar, and the toolkit remembers one: here all are kept until a row changes.
class PageLayout : public QVBoxLayout {
  public:
    using QVBoxLayout::QVBoxLayout;
    int heightForWidth(int width) const override {
        return known(heights_, width, [&] { return QVBoxLayout::heightForWidth(width); });
    }
    int minimumHeightForWidth(int width) const override {
        return known(least_, width, [&] { return QVBoxLayout::minimumHeightForWidth(width); });
    }
    /// While the column around it still has its old height it would be squeezed, and every row laid out twice.
    void setGeometry(const QRect& rect) override {
        QVBoxLayout::setGeometry(
            {rect.topLeft(), QSize(rect.width(), std::max(rect.height(), heightForWidth(rect.width())))});
    }
    void invalidate() override {
        heights_.clear();
        least_.clear();
        QVBoxLayout::invalidate();
    }

  private:
    template <class Make> static int known(std::map<int, int>& heights, int width, Make make) {
        auto found = heights.find(width);
        return found != heights.end() ? found->second : heights.emplace(width, make()).first->second;
    }
    mutable std::map<int, int> heights_, least_;
};

BuildSheet::BuildSheet(Session* session, QWidget* parent) : Column(parent), session_(session) {
    setAccessibleName("Build sheet");
    connect(&session->document(), &Document::project_changed, this, &BuildSheet::rebuild);
    for (auto fact : {&Workspace::active_part_changed, &Workspace::wound_changed})
        connect(&session->workspace(), fact, this, &BuildSheet::rebuild);
    connect(&session->workspace(), &Workspace::selection_changed, this, &BuildSheet::mark_picked);
    connect(&session->workspace(), &Workspace::step_changed, this, [this] {
        for (StepRow* row : rows_) row->set_active(row->step() == session_->workspace().active_step());
    });
    connect(session, &Session::step_wanted, this, [this](PartId part, StepId step) {
        if (part == shown_part_ && session_->workspace().stretch() == Stretch::Shape) edit_step(step);
    });
    connect(&session->results(), &Results::evaluated, this, &BuildSheet::show_results);
    connect(&session->results(), &Results::analysed, this, &BuildSheet::show_results);
    going_on_.setSingleShot(true);
    going_on_.setInterval(0);
    connect(&going_on_, &QTimer::timeout, this, &BuildSheet::go_on);
    rebuild();
}

StepRow* BuildSheet::add_row(const Part& part, size_t i) {
    auto* row = new StepRow(session_, part.id, part.steps[i], i, this);
    connect(row, &StepRow::field_focused, this, [this](StepId step, const std::string& field) {
        focus_step_ = step;
        focus_field_ = field;
        mark_step(step);
    });
    for (const std::string& name : row->all_fields()) {
        row->field(name)->set_travel(
            [this, id = row->step(), name](bool forward) { return travel(id, name, forward); });
        row->field(name)->set_done([this] { emit keys_back(); });
    }
    connect(row, &StepRow::dragged, this, &BuildSheet::show_drop_place);
    connect(
        row, &StepRow::dropped, this, [this, id = row->step()](const QPoint& at) { drop_step(id, at); },
        Qt::QueuedConnection); // the row goes when the sheet is written anew
    return row;
}

void BuildSheet::rebuild() {
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    // Nothing is rebuilt when only the selection changed: rows compare by value.
    bool same = part && shown_part_ == part->id && shown_wound_ == session_->workspace().wound_back(part->id) &&
                shown_steps_ == part->steps.size() &&
                (!tail_there_ || parameters_.size() == session_->project()->parameters.size());
    // A changed number repaints its row.
    for (size_t i = 0; same && i < rows_.size(); ++i)
        same = rows_[i]->shown() == part->steps[i] || rows_[i]->take(part->steps[i], i);
    for (const Parameter& p : session_->project()->parameters)
        same = same && (!tail_there_ || parameters_.count(p.name));
    if (same) {
        show_results();
        return;
    }
    const auto typed = being_typed();
    bool had_focus = focus_step_ && QApplication::focusWidget() && isAncestorOf(QApplication::focusWidget());
    // Taking the old rows away sends the focus wandering: remember where it was.
    const StepId focus_step = focus_step_;
    const std::string focus_field = focus_field_;
    clear();
    rows_.clear();
    pages_ = page_ = nullptr;
    told_ = 0;
    parameters_.clear();
    const bool another = !part || shown_part_ != part->id;
    shown_part_ = part ? part->id : PartId();
    if (!part) {
        body()->addWidget(make_note(
            "Parts you print and stand-ins you fit them to will stand on this shelf, and the chosen one as numbered "
            "sentences below it.",
            false, this));
        body()->addStretch();
        return;
    }
    if (part->steps.size() > 11) add_search();
    body()->addWidget(
        make_heading("Build sheet", QString::fromStdString(part->name) + (part->stand_in ? ", stand-in" : ""), this));
    shown_wound_ = session_->workspace().wound_back(part->id);
    auto* rows = new QWidget(this);
    pages_ = new PageLayout(rows);
    pages_->setContentsMargins(0, 0, 0, 0);
    pages_->setSpacing(body()->spacing());
    page_ = nullptr;
    beyond_ = false;
    tail_there_ = false;
    shown_steps_ = part->steps.size();
    // A part that is opened has everything else to make in the same moment.
    at_once_ = shown_steps_ <= short_sheet ? short_sheet : another ? 1 : rows_at_once;
    body()->addWidget(rows);
    while (rows_.size() < std::min(at_once_, part->steps.size())) add_next_row(*part);
    for (size_t i = 0; had_focus && i < part->steps.size(); ++i)
        if (part->steps[i].id == focus_step)
            while (rows_.size() <= i) add_next_row(*part); // up to where the hand is
    show_results();
    if (had_focus)
        for (StepRow* row : rows_)
            if (row->step() == focus_step)
                if (ValueField* field = row->field(focus_field)) {
                    field->setFocus();
                    mark_step(focus_step);
                    if (!typed || typed->step != focus_step || typed->field != focus_field) continue;
                    // What is being typed is not lost by what goes on round it; what was only open follows.
                    field->begin_edit(typed->touched ? typed->text : QString());
                    if (typed->touched) field->editor()->setCursorPosition(typed->cursor);
                }
}

std::optional<BuildSheet::Typed> BuildSheet::being_typed() const {
    for (const StepRow* row : rows_)
        for (const std::string& name : row->stops())
            if (const ValueField* field = row->field(name); field->editing() && !field->is_being_kept())
                return Typed{row->step(), name, field->editor()->text(), field->editor()->cursorPosition(),
                             field->is_touched()};
    return std::nullopt;
}

StepRow* BuildSheet::row_of(StepId step) {
    PartPtr part = session_->project()->part(shown_part_);
    for (size_t i = 0; part && i < part->steps.size(); ++i) {
        if (part->steps[i].id != step) continue;
        while (pages_ && rows_.size() <= i) add_next_row(*part);
        return i < rows_.size() ? rows_[i] : nullptr;
    }
    return nullptr;
}

void BuildSheet::take_hand(StepRow* row, const std::string& field) {
    mark_step(row->step());
    row->field(field)->take_hand();
    for (QWidget* w = parentWidget(); w; w = w->parentWidget())
        if (auto* area = qobject_cast<QScrollArea*>(w)) area->ensureWidgetVisible(row->field(field), 0, 40);
}

void BuildSheet::edit_step(StepId step) {
    StepRow* row = row_of(step);
    const StepKind* kind = row ? find_step_kind(row->shown().kind) : nullptr;
    if (!kind) return;
    for (const std::string& name : row->stops())
        if (is_quantity(kind->field(name)->kind)) return take_hand(row, name);
    for (const std::string& name : row->stops()) // without a number, what is still to be chosen
        if (field_text(row->shown(), *kind->field(name)).empty()) return take_hand(row, name);
}

/// Through the fields of a sentence, then on to the next one; at the end of the sheet to what can be done next.
bool BuildSheet::travel(StepId step, const std::string& field, bool forward) {
    StepRow* row = row_of(step);
    if (!row) return false;
    auto stops = row->stops();
    auto at = std::find(stops.begin(), stops.end(), field);
    if (forward ? at != stops.end() && at + 1 != stops.end() : at != stops.begin() && at != stops.end()) {
        take_hand(row, forward ? *(at + 1) : *(at - 1));
        return true;
    }
    if (forward && row->cure()->isVisible()) {
        row->cure()->setFocus(Qt::TabFocusReason);
        return true;
    }
    PartPtr part = session_->project()->part(shown_part_);
    for (size_t i = row->index(); part && (forward ? i + 1 < part->steps.size() : i > 0);) {
        forward ? ++i : --i;
        StepRow* next = row_of(part->steps[i].id);
        auto its = next && next->isVisible() && next->isEnabled() ? next->stops() : std::vector<std::string>();
        if (its.empty()) continue;
        take_hand(next, forward ? its.front() : its.back());
        return true;
    }
    if (!forward || !next_) return false;
    next_->setFocus(Qt::TabFocusReason);
    return true;
}

/// What stands below the rows. Made after them: the tabulator goes in the order in which things were made.
void BuildSheet::add_tail(const Part& part) {
    tail_there_ = true;
    auto* next = new QPushButton(QString("%1   Next step …").arg(part.steps.size() + 1), this);
    next_ = next;
    next->setFlat(true);
    next->setObjectName("next-step");
    next->setStyleSheet(QString("text-align: left; color: %1; margin-left: 8px;").arg(theme::css(Role::SoftInk)));
    connect(next, &QPushButton::clicked, session_, &Session::panel_wanted);
    body()->addWidget(next);
    add_parameters();
    body()->addStretch();
}

/// The next row, on a page of so many: a row that grows makes only its own page be laid out again. A page is shown when
/// it is full: each row shown by itself would lay out the whole column anew.
void BuildSheet::add_next_row(const Part& part) {
    const size_t i = rows_.size();
    if (!page_ || i % page_rows == 0) {
        auto* page = new QWidget(this);
        page->hide();
        page_ = new PageLayout(page);
        page_->setContentsMargins(0, 0, 0, 0);
        page_->setSpacing(pages_->spacing());
        pages_->addWidget(page);
    }
    const std::string& group = part.steps[i].group;
    if (!group.empty() && (i == 0 || part.steps[i - 1].group != group)) {
        size_t count = 1;
        while (i + count < part.steps.size() && part.steps[i + count].group == group) ++count;
        page_->addWidget(add_group_head(group, count));
    }
    StepRow* row = add_row(part, i);
    rows_.push_back(row);
    page_->addWidget(row);
    if (!group.empty() && folded_.count({part.id, group})) row->hide();
    row->setEnabled(!beyond_);
    if (part.steps[i].id == shown_wound_) {
        beyond_ = true;
        auto* forward = new QPushButton("The part is shown as it was here. Wind forward", this);
        forward->setObjectName("wind-forward");
        connect(forward, &QPushButton::clicked, session_,
                [s = session_, id = part.id] { s->workspace().wind_back(id, {}); });
        page_->addWidget(forward);
    }
    if (rows_.size() % page_rows == 0 || rows_.size() == part.steps.size()) page_->parentWidget()->show();
}

/// Rows are made and told what came of their steps a few at a time, so that a long sheet never holds up the hand. The
/// first are there at once.
void BuildSheet::go_on() {
    PartPtr part = session_->project()->part(shown_part_);
    if (!part || !pages_) return;
    QElapsedTimer timer;
    timer.start();
    auto may = [&](size_t i) { return i < at_once_ || timer.elapsed() < slice_ms; };
    const Evaluation* evaluation = session_->results().evaluation();
    const PartResult* result = evaluation ? evaluation->part(shown_part_) : nullptr;
    auto tell = [&](StepRow* row) {
        const StepOutcome* outcome = nullptr;
        if (result && told_ < result->steps.size() && result->steps[told_].step == row->step())
            outcome = &result->steps[told_];
        else if (result)
            for (const StepOutcome& o : result->steps)
                if (o.step == row->step()) outcome = &o;
        row->show_outcome(outcome, values_);
        ++told_;
    };
    while (told_ < part->steps.size() && may(told_)) {
        if (told_ == rows_.size()) add_next_row(*part);
        tell(rows_[told_]);
    }
    if (rows_.size() == part->steps.size() && !tail_there_) {
        add_tail(*part);
        show_parameters();
        mark_again();
    }
    if (rows_.size() < part->steps.size() || told_ < rows_.size()) going_on_.start();
}

/// A line for a group: a press folds or unfolds its steps.
QWidget* BuildSheet::add_group_head(const std::string& group, size_t count) {
    bool folded = folded_.count({shown_part_, group}) > 0;
    auto* head = new QPushButton(QString("%1  %2   %3 %4")
                                     .arg(folded ? "▸" : "▾", QString::fromStdString(group))
                                     .arg(count)
                                     .arg(count == 1 ? "step" : "steps"),
                                 this);
    head->setFlat(true);
    head->setObjectName("group");
    head->setAccessibleName(QString::fromStdString(group) + (folded ? ", folded" : ", open"));
    head->setStyleSheet("text-align: left; margin-left: 8px; font-weight: 700;");
    connect(head, &QPushButton::clicked, this, [this, key = std::pair(shown_part_, group)] {
        if (!folded_.erase(key)) folded_.insert(key);
        shown_part_ = {}; // nothing of the document changed: the rows are laid out anew all the same
        rebuild();
    });
    return head;
}

/// A long sheet is searched by words; the rows that do not say them step aside. Enter goes to the next that failed.
void BuildSheet::add_search() {
    auto* search = new QLineEdit(this);
    search->setObjectName("search");
    search->setPlaceholderText("find a step …  Enter: the next that failed");
    search->setAccessibleName("Find a step");
    // The toolkit's own button looks through the icon themes on the disk each time: 7 ms.
    QAction* empty = search->addAction(theme::line_icon("close"), QLineEdit::TrailingPosition);
    empty->setText("Show every step");
    empty->setVisible(false);
    connect(empty, &QAction::triggered, search, &QLineEdit::clear);
    connect(search, &QLineEdit::textChanged, this, [this, empty](const QString& text) {
        empty->setVisible(!text.isEmpty());
        for (StepRow* row : rows_)
            row->setVisible(text.isEmpty() ? !folded_.count({shown_part_, row->shown().group})
                                           : row->text().contains(text, Qt::CaseInsensitive));
    });
    connect(search, &QLineEdit::returnPressed, this, [this, search] {
        search->clear();
        size_t from = 0;
        for (size_t i = 0; i < rows_.size(); ++i)
            if (rows_[i]->is_active()) from = i + 1;
        for (size_t k = 0; k < rows_.size(); ++k) {
            StepRow* row = rows_[(from + k) % rows_.size()];
            if (!row->failed()) continue;
            mark_step(row->step());
            for (QWidget* w = parentWidget(); w; w = w->parentWidget())
                if (auto* area = qobject_cast<QScrollArea*>(w)) area->ensureWidgetVisible(row);
            return;
        }
        session_->say("Every step works.");
    });
    auto* holder = new QWidget(this);
    auto* margin = new QHBoxLayout(holder);
    margin->setContentsMargins(theme::margin, 4, theme::margin, 0);
    margin->addWidget(search);
    body()->addWidget(holder);
}

void BuildSheet::add_parameters() {
    const auto& parameters = session_->project()->parameters;
    body()->addWidget(
        make_heading("Numbers", parameters.empty() ? "type name = 6 mm into any field" : "used by name", this));
    auto* table = new QPushButton("Open them as a table …", this);
    table->setFlat(true);
    table->setObjectName("numbers-table");
    table->setStyleSheet(QString("text-align: left; color: %1; margin-left: 8px;").arg(theme::css(Role::SoftInk)));
    connect(table, &QPushButton::clicked, this, [this] { emit session_->numbers_wanted(); });
    body()->addWidget(table);
    auto* variants = new QPushButton("Variants of this part …", this);
    variants->setFlat(true);
    variants->setObjectName("variants");
    variants->setToolTip("The same steps with other numbers, kept side by side");
    variants->setStyleSheet(table->styleSheet());
    connect(variants, &QPushButton::clicked, this, [this] { emit session_->variants_wanted(); });
    body()->addWidget(variants);
    for (const Parameter& parameter : parameters) {
        ValueRow row =
            make_value_row(QString::fromStdString(parameter.name), QString::fromStdString(parameter.note), this);
        row.row->setToolTip(
            QStringList{QString::fromStdString(parameter.note), readings_words(parameter)}.join('\n').trimmed());
        make_quantity(session_, row.field, parameter.kind);
        row.field->set_stepping(true);
        auto set = [this, name = parameter.name](ValueField* field, const std::string& text) {
            QPointer<ValueField> alive(field);
            auto wrong = session_->document().edit(SetParameter{name, text, {}, {}}, true);
            if (!alive) return;
            if (wrong)
                field->refuse(QString::fromStdString(wrong->text()));
            else
                field->accept();
        };
        connect(row.field, &ValueField::submitted, this,
                [field = row.field, set](const QString& typed) { set(field, typed.toStdString()); });
        connect(row.field, &ValueField::stepped, this, [this, field = row.field, set, parameter](double by) {
            auto now = session_->results().evaluation() ? session_->results().evaluation()->values.find(parameter.name)
                                                        : ParameterValues::const_iterator();
            if (session_->results().evaluation() && now != session_->results().evaluation()->values.end() &&
                is_plain_number(parameter.expression))
                set(field, format_number(now->second.value +
                                         by * (parameter.kind == QuantityKind::Length ? length_step_mm() : 1)) +
                               (parameter.kind == QuantityKind::Length  ? " mm"
                                : parameter.kind == QuantityKind::Angle ? " deg"
                                                                        : ""));
        });
        parameters_[parameter.name] = row.field;
        body()->addWidget(row.row);
    }
}

void BuildSheet::show_results() {
    const Evaluation* evaluation = session_->results().evaluation();
    values_ = evaluation && session_->results().evaluation_is_current()
                  ? evaluation->values
                  : project_values(*session_->project()).value_or(ParameterValues{});
    told_ = 0;
    go_on();
    show_parameters();
    mark_again();
}

void BuildSheet::show_parameters() {
    for (const Parameter& parameter : session_->project()->parameters) {
        auto field = parameters_.find(parameter.name);
        auto value = values_.find(parameter.name);
        if (field == parameters_.end()) continue;
        QString text = QString::fromStdString(parameter.expression);
        field->second->set_value(value == values_.end()
                                     ? text
                                     : QString::fromStdString(format_quantity(value->second.value, parameter.kind)),
                                 text);
    }
}

/// The step in hand stays marked; without one, the one that made the picked face is.
void BuildSheet::mark_again() {
    const StepId step = session_->workspace().active_step();
    for (StepRow* row : rows_) row->set_active(step && row->step() == step);
    if (!step) mark_picked();
}

/// The step that made the picked face is marked.
void BuildSheet::mark_picked() {
    if (session_->workspace().selection().empty()) return;
    const Pick& pick = session_->workspace().selection().back();
    if (const FaceInfo* face = session_->results().face_of(pick); face && pick.part == shown_part_)
        if (auto meaning = tag_meaning(face->primary())) mark_step(meaning->step);
}

size_t BuildSheet::place_at(const QPoint& global) const {
    size_t place = 0;
    for (size_t i = 0; i < rows_.size(); ++i)
        if (rows_[i]->isVisible() && global.y() > rows_[i]->mapToGlobal(QPoint(0, rows_[i]->height() / 2)).y())
            place = i + 1;
    return place;
}

void BuildSheet::show_drop_place(const QPoint& global) {
    if (!drop_line_) {
        drop_line_ = new QWidget(this);
        drop_line_->setStyleSheet(QString("background: %1").arg(theme::css(Role::Accent)));
    }
    size_t place = place_at(global);
    const StepRow* row = rows_[std::min(place, rows_.size() - 1)];
    int y = row->mapTo(this, QPoint(0, place < rows_.size() ? 0 : row->height())).y();
    drop_line_->setGeometry(8, y - 1, width() - 16, 3);
    drop_line_->show();
    drop_line_->raise();
}

void BuildSheet::drop_step(StepId step, const QPoint& global) {
    if (drop_line_) drop_line_->hide();
    size_t to = place_at(global);
    for (size_t i = 0; i < rows_.size(); ++i)
        if (rows_[i]->step() == step) {
            if (i < to) --to; // it leaves its own place first
            if (i != to) session_->document().edit(MoveStep{shown_part_, step, to});
            return;
        }
}

void BuildSheet::mark_step(StepId step) {
    for (StepRow* row : rows_) row->set_active(row->step() == step);
    session_->workspace().set_active_step(step);
}

ValueField* BuildSheet::parameter_field(const std::string& name) const {
    auto found = parameters_.find(name);
    return found == parameters_.end() ? nullptr : found->second;
}

void add_step(Session* session, PartId part, const std::string& kind, std::map<std::string, std::string> fields,
              bool typed) {
    // Where the sheet is wound back, the new step goes there, and the sheet stays wound back to it.
    std::optional<size_t> index;
    PartPtr its = session->project()->part(part);
    StepId after = session->workspace().wound_back(part);
    for (size_t i = 0; its && after && i < its->steps.size(); ++i)
        if (its->steps[i].id == after) index = i + 1;
    if (session->document().edit(AddStep{part, step_of_kind(kind, fields), index})) return;
    const auto& steps = session->project()->part(part)->steps;
    const StepId fresh = steps[index.value_or(steps.size() - 1)].id;
    if (index) session->workspace().wind_back(part, fresh);
    session->workspace().set_active_part(part);
    if (!typed) session->edit_step(part, fresh);
}

} // namespace lp
