#include "app/sheet/build_sheet.h"
#include "app/theme/theme.h"
#include <QApplication>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>

namespace lp {

using theme::Role;

BuildSheet::BuildSheet(Session* session, QWidget* parent) : Column(parent), session_(session) {
    setAccessibleName("Build sheet");
    connect(&session->document(), &Document::project_changed, this, &BuildSheet::rebuild);
    for (auto fact : {&Workspace::active_part_changed, &Workspace::wound_changed})
        connect(&session->workspace(), fact, this, &BuildSheet::rebuild);
    connect(&session->workspace(), &Workspace::selection_changed, this, &BuildSheet::mark_picked);
    connect(&session->results(), &Results::evaluated, this, &BuildSheet::show_results);
    connect(&session->results(), &Results::analysed, this, &BuildSheet::show_results);
    rebuild();
}

StepRow* BuildSheet::add_row(const Part& part, size_t i) {
    auto* row = new StepRow(session_, part.id, part.steps[i], i, this);
    connect(row, &StepRow::field_focused, this, [this](StepId step, const std::string& field) {
        focus_step_ = step;
        focus_field_ = field;
        mark_step(step);
    });
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
                rows_.size() == part->steps.size() && parameters_.size() == session_->project()->parameters.size();
    // A changed number repaints its row.
    for (size_t i = 0; same && i < rows_.size(); ++i)
        same = rows_[i]->shown() == part->steps[i] || rows_[i]->take(part->steps[i], i);
    for (const Parameter& p : session_->project()->parameters) same = same && parameters_.count(p.name);
    if (same) {
        show_results();
        return;
    }
    bool had_focus = focus_step_ && QApplication::focusWidget() && isAncestorOf(QApplication::focusWidget());
    // Taking the old rows away sends the focus wandering: remember where it was.
    const StepId focus_step = focus_step_;
    const std::string focus_field = focus_field_;
    clear();
    rows_.clear();
    parameters_.clear();
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
    StepId wound = session_->workspace().wound_back(part->id);
    bool beyond = false;
    for (size_t i = 0; i < part->steps.size(); ++i) {
        const std::string& group = part->steps[i].group;
        if (!group.empty() && (i == 0 || part->steps[i - 1].group != group)) {
            size_t count = 1;
            while (i + count < part->steps.size() && part->steps[i + count].group == group) ++count;
            body()->addWidget(add_group_head(group, count));
        }
        StepRow* row = add_row(*part, i);
        rows_.push_back(row);
        body()->addWidget(row);
        row->setVisible(group.empty() || !folded_.count({part->id, group}));
        row->setEnabled(!beyond);
        if (part->steps[i].id == wound) {
            beyond = true;
            auto* forward = new QPushButton("The part is shown as it was here. Wind forward", this);
            forward->setObjectName("wind-forward");
            connect(forward, &QPushButton::clicked, session_,
                    [s = session_, id = part->id] { s->workspace().wind_back(id, {}); });
            body()->addWidget(forward);
        }
    }
    shown_wound_ = wound;
    auto* next = new QPushButton(QString("%1   Next step …").arg(part->steps.size() + 1), this);
    next->setFlat(true);
    next->setObjectName("next-step");
    next->setStyleSheet(QString("text-align: left; color: %1; margin-left: 8px;").arg(theme::css(Role::SoftInk)));
    connect(next, &QPushButton::clicked, this, [this, next] { open_step_menu(session_, shown_part_, next); });
    body()->addWidget(next);
    add_parameters();
    body()->addStretch();
    show_results();
    if (had_focus)
        for (StepRow* row : rows_)
            if (row->step() == focus_step)
                if (ValueField* field = row->field(focus_field)) {
                    field->setFocus();
                    mark_step(focus_step);
                }
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
    search->setClearButtonEnabled(true);
    connect(search, &QLineEdit::textChanged, this, [this](const QString& text) {
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
        row.row->setToolTip(QString::fromStdString(parameter.note));
        row.field->set_check(
            [this, kind = parameter.kind](const QString& typed) { return explain_typed(*session_, typed, kind); });
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
                set(field, format_number(now->second.value + by) + (parameter.kind == QuantityKind::Length  ? " mm"
                                                                    : parameter.kind == QuantityKind::Angle ? " deg"
                                                                                                            : ""));
        });
        parameters_[parameter.name] = row.field;
        body()->addWidget(row.row);
    }
}

void BuildSheet::show_results() {
    const Evaluation* evaluation = session_->results().evaluation();
    const PartResult* result = evaluation ? evaluation->part(shown_part_) : nullptr;
    ParameterValues values = evaluation && session_->results().evaluation_is_current()
                                 ? evaluation->values
                                 : project_values(*session_->project()).value_or(ParameterValues{});
    for (StepRow* row : rows_) {
        const StepOutcome* outcome = nullptr;
        if (result)
            for (const StepOutcome& o : result->steps)
                if (o.step == row->step()) outcome = &o;
        row->show_outcome(outcome, values);
    }
    for (const Parameter& parameter : session_->project()->parameters) {
        auto field = parameters_.find(parameter.name);
        auto value = values.find(parameter.name);
        if (field == parameters_.end()) continue;
        QString text = QString::fromStdString(parameter.expression);
        field->second->set_value(
            value == values.end() ? text : QString::fromStdString(format_quantity(value->second.value, parameter.kind)),
            text);
    }
    mark_picked();
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
}

ValueField* BuildSheet::parameter_field(const std::string& name) const {
    auto found = parameters_.find(name);
    return found == parameters_.end() ? nullptr : found->second;
}

void add_step(Session* session, PartId part, const std::string& kind, std::map<std::string, std::string> fields) {
    // Where the sheet is wound back, the new step goes there, and the sheet stays wound back to it.
    std::optional<size_t> index;
    PartPtr its = session->project()->part(part);
    StepId after = session->workspace().wound_back(part);
    for (size_t i = 0; its && after && i < its->steps.size(); ++i)
        if (its->steps[i].id == after) index = i + 1;
    if (session->document().edit(AddStep{part, step_of_kind(kind, fields), index}) || !index) return;
    session->workspace().wind_back(part, session->project()->part(part)->steps[*index].id);
}

void open_step_menu(Session* session, PartId part, QWidget* at) {
    auto* menu = new QMenu(at);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (const StepKind& kind : step_kinds()) {
        if (kind.asks_for_file) continue; // by the offer that asks for it
        QAction* action = menu->addAction(QString::fromStdString(kind.title + " – " + kind.purpose));
        QObject::connect(action, &QAction::triggered, session, [session, part, id = kind.id, draws = kind.draws()] {
            add_step(session, part, id);
            if (draws) session->draw_outline(part, session->project()->part(part)->steps.back().id);
        });
    }
    menu->popup(at->mapToGlobal(QPoint(20, at->height())));
}

} // namespace lp
