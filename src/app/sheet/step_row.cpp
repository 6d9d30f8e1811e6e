#include "app/sheet/step_row.h"
#include "app/brushing.h"
#include "app/offers/selection_fields.h"
#include "app/sheet/step_words.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include "app/widgets/flow_layout.h"
#include "project/contact_situation.h"
#include "project/references.h"
#include <QContextMenuEvent>
#include <QHBoxLayout>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>

namespace lp {

using theme::Role;

StepRow::StepRow(Session* session, PartId part, const Step& step, size_t index, QWidget* parent)
    : QWidget(parent), session_(session), part_(part), step_(step), index_(index) {
    preview_timer_.setSingleShot(true);
    connect(&preview_timer_, &QTimer::timeout, this, [this] { preview(typed_.first, typed_.second); });
    build();
}

void StepRow::build() {
    const StepKind* kind = find_step_kind(step_.kind);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(theme::margin - 6, 3, theme::margin - 4, 3);
    row->setSpacing(8);
    auto* number = new QLabel(QString::number(index_ + 1), this);
    number->setFont(theme::numbers(12));
    number->setFixedWidth(20);
    number->setAlignment(Qt::AlignRight | Qt::AlignTop);
    number->setContentsMargins(0, 5, 0, 0);
    number->setObjectName("number");
    number->setAttribute(Qt::WA_TransparentForMouseEvents);
    number->setToolTip("Drag to another place in the sheet");
    row->addWidget(number, 0, Qt::AlignTop);
    auto* column = new QVBoxLayout;
    column->setSpacing(0);
    column->setContentsMargins(0, 0, 0, 0);
    auto* flow = new QWidget(this);
    auto* layout = new FlowLayout(flow, 4, 0);
    QSizePolicy policy = flow->sizePolicy();
    policy.setHeightForWidth(true);
    flow->setSizePolicy(policy);
    if (!step_.name.empty()) {
        QString name = QString::fromStdString(step_.name);
        name[0] = name[0].toUpper();
        auto* label = new QLabel(name + ":", flow);
        label->setFont(theme::words(13.5, QFont::Bold));
        label->setFixedHeight(25);
        layout->addWidget(label);
    }
    for (const SentencePiece& piece : sentence_pieces(*kind)) {
        int before = layout->count();
        if (piece.field)
            layout->addWidget(add_field(*piece.field, flow));
        else
            add_words(piece.words, flow);
        for (int i = before; piece.group >= 0 && i < layout->count(); ++i)
            groups_[piece.group].push_back(layout->itemAt(i)->widget());
        if (piece.group >= 0 && piece.field && field_text(step_, *piece.field) != piece.field->standard)
            unusual_.insert(piece.group);
    }
    show_groups(false);
    column->addWidget(flow);
    hint_ = new QLabel(this);
    hint_->setFont(theme::numbers(12));
    hint_->setWordWrap(true);
    hint_->hide();
    column->addWidget(hint_);
    says_ = new QLabel(this);
    says_->setFont(theme::words(12.5));
    says_->setWordWrap(true);
    says_->setTextFormat(Qt::PlainText);
    says_->hide();
    column->addWidget(says_);
    cure_ = new QPushButton(this);
    cure_->setObjectName("cure");
    cure_->hide();
    connect(cure_, &QPushButton::clicked, this, &StepRow::take_cure);
    column->addWidget(cure_, 0, Qt::AlignLeft);
    row->addLayout(column, 1);
    auto* more = new QPushButton(this);
    more->setFlat(true);
    more->setIcon(theme::line_icon("more"));
    more->setFixedSize(24, 24);
    more->setStyleSheet("padding: 0;");
    more->setAccessibleName(QString("What can be done with step %1").arg(index_ + 1));
    connect(more, &QPushButton::clicked, this,
            [this, more] { open_menu(more->mapToGlobal(QPoint(0, more->height()))); });
    row->addWidget(more, 0, Qt::AlignTop);
    setEnabled(true);
    if (!step_.on) {
        auto soften = [&](QWidget* w) {
            w->setStyleSheet(QString("color: %1; text-decoration: line-through;").arg(theme::css(Role::SoftInk)));
        };
        for (QLabel* label : flow->findChildren<QLabel*>()) soften(label);
        says_->setText("switched off");
        says_->setStyleSheet(QString("color: %1").arg(theme::css(Role::SoftInk)));
        says_->show();
    }
}

void StepRow::show_groups(bool all) {
    for (auto& [group, widgets] : groups_)
        for (QWidget* widget : widgets) widget->setVisible(all || unusual_.count(group));
    if (all) updateGeometry();
}

void StepRow::add_words(const QString& text, QWidget* flow) {
    for (const QString& word : text.split(' ', Qt::SkipEmptyParts)) {
        auto* label = new QLabel(word, flow);
        label->setFixedHeight(25);
        if (word.contains('|')) {
            label->setProperty("forms", word);
            auto counts = std::find_if(order_.rbegin(), order_.rend(), [&](const std::string& name) {
                return find_step_kind(step_.kind)->field(name)->kind == FieldKind::Count;
            });
            if (counts != order_.rend()) counted_.emplace_back(label, *counts);
        }
        if (word == "," || word.startsWith(',')) label->setProperty("sticks", true);
        flow->layout()->addWidget(label);
    }
}

ValueField* StepRow::add_field(const StepField& what, QWidget* flow) {
    std::string text = field_text(step_, what);
    bool plain = is_plain_number(text);
    ValueField::Look look = what.kind == FieldKind::Fit ? ValueField::Look::Fit
                            : !is_quantity(what.kind)   ? ValueField::Look::Reference
                            : plain                     ? ValueField::Look::Number
                                                        : ValueField::Look::Expression;
    auto* field = new ValueField(look, flow);
    QString name = QString::fromStdString(what.name).replace('_', ' ');
    field->set_label(QString("Step %1, %2").arg(index_ + 1).arg(name),
                     name + ": " + as_shown(what.hint) +
                         (plain || !is_quantity(what.kind) ? QString() : "\n" + QString::fromStdString(text)));
    if (is_quantity(what.kind))
        make_quantity(session_, field, quantity_of(what.kind));
    else if (what.kind == FieldKind::Fit) // a gap of its own may be typed
        field->set_quantity(QuantityKind::Length, [this] { return session_->results().values(); });
    field->set_value(QString::fromStdString(text), QString::fromStdString(text));
    field->setProperty("field", QString::fromStdString(what.name));
    fields_[what.name] = field;
    order_.push_back(what.name);
    connect(field, &ValueField::submitted, this,
            [this, field, n = what.name](const QString& typed) { submit(field, n, typed); });
    connect(field, &ValueField::hint_changed, this, [this](const QString& says, bool wrong) {
        hint_->setText(says);
        hint_->setStyleSheet(QString("color: %1").arg(theme::css(wrong ? Role::Wrong : Role::SoftInk)));
        hint_->setVisible(!says.isEmpty());
    });
    connect(field, &ValueField::focused, this, [this, n = what.name] { emit field_focused(step_.id, n); });
    if (is_quantity(what.kind)) {
        QuantityKind kind = quantity_of(what.kind);
        field->set_stepping(true);
        // Shown while it is typed, once the hand has paused; Enter keeps it, Escape drops it.
        connect(field, &ValueField::typed, this, [this, n = what.name](const QString& text) {
            typed_ = {n, text};
            preview_timer_.start(150);
        });
        connect(field, &ValueField::closed, this, [this] {
            preview_timer_.stop();
            session_->results().end_preview();
        });
        field->set_check([this, kind](const QString& typed) {
            auto explained = explain_typed(*session_, typed, kind);
            if (!explained.second) {
                size_t uses = 0;
                auto all = uses_of_parameters(*session_->project());
                for (const std::string& used : names_in_expression(typed.toStdString())) uses += all[used].size() > 1;
                if (uses) explained.first += " · its number drives others too";
            }
            return explained;
        });
        connect(field, &ValueField::stepped, this, [this, field, n = what.name, kind](double by) {
            std::string text = field_text(step_, *find_step_kind(step_.kind)->field(n));
            auto now = number_in_field(*find_step_kind(step_.kind)->field(n), text, session_->results().values());
            if (!now) return;
            if (kind == QuantityKind::Length) by *= length_step_mm();
            // A number that is worked out keeps its formula: the step is added to it.
            std::string next = is_plain_number(text) ? format_quantity(*now + by, kind)
                                                     : text + (by < 0 ? " - " : " + ") + format_number(std::fabs(by));
            if (kind == QuantityKind::Angle && is_plain_number(text)) next = format_number(*now + by) + " deg";
            submit(field, n, QString::fromStdString(next));
        });
    } else if (what.kind == FieldKind::Drawing) {
        field->set_menu([this](ValueField*) { session_->draw_outline(part_, step_.id); });
    } else if (step_.kind == "brush_face") { // its text is what the brush left: more is brushed
        field->set_menu([this](ValueField*) {
            session_->workspace().set_active_step(step_.id);
            if (const auto wrong = take_face_brush(*session_, false)) session_->say(*wrong, true);
        });
    } else if (what.kind == FieldKind::Choice || what.kind == FieldKind::Part || what.kind == FieldKind::Fit ||
               what.kind == FieldKind::Plane || what.kind == FieldKind::Face || what.kind == FieldKind::Outline ||
               what.kind == FieldKind::Outlines || what.kind == FieldKind::Regions || what.kind == FieldKind::Steps ||
               what.kind == FieldKind::Faces || what.kind == FieldKind::Edges || what.kind == FieldKind::Bodies) {
        field->set_menu([this, what](ValueField* f) { open_choices(f, what); });
    }
    return field;
}

void StepRow::preview(const std::string& name, const QString& text) {
    preview_typed(*session_, part_, step_.id, name, text.trimmed().toStdString());
}

void preview_typed(Session& session, PartId part, StepId step, const std::string& field, const std::string& text) {
    auto edited = apply_edit(*session.project(), edit_from_typed(*session.project(), part, step, field, text));
    if (edited) session.results().preview(edited->project);
}

void StepRow::submit(ValueField* field, const std::string& name, const QString& typed) {
    QPointer<ValueField> alive(field);
    Edit edit = edit_from_typed(*session_->project(), part_, step_.id, name, typed.trimmed().toStdString());
    if (edit.parts.size() == 1 &&
        field_text(step_, *find_step_kind(step_.kind)->field(name)) == typed.trimmed().toStdString())
        return field->accept();
    auto wrong = session_->document().edit(edit, true);
    if (!alive) return;
    if (wrong)
        field->editing() ? field->refuse(QString::fromStdString(wrong->text()))
                         : session_->say(QString::fromStdString(wrong->text()), true);
    else
        field->accept();
}

void StepRow::show_outcome(const StepOutcome* outcome, const ParameterValues& values) {
    const StepKind& kind = *find_step_kind(step_.kind);
    for (auto& [name, field] : fields_) {
        const StepField& what = *kind.field(name);
        QString text = QString::fromStdString(field_text(step_, what));
        if (is_quantity(what.kind)) {
            auto value = number_in_field(what, text.toStdString(), values);
            for (auto [label, counts] : counted_)
                if (counts == name)
                    label->setText(counted_words(label->property("forms").toString(), value.value_or(0)));
            // Of three coordinates only the last carries the unit: "at 0, 12, 18 mm".
            bool coordinate = what.kind == FieldKind::Length && (name.ends_with("_x") || name.ends_with("_y")) &&
                              !name.starts_with("size");
            QString shown = !value       ? text
                            : coordinate ? bare_length(*value)
                                         : QString::fromStdString(format_quantity(*value, quantity_of(what.kind)));
            field->set_value(shown, text);
        } else if (what.kind == FieldKind::Fit) {
            PartPtr host = session_->project()->part(part_);
            const StepField* goes_in = kind.field_as(FieldRole::GoesIn);
            PartPtr tool = goes_in ? session_->project()->part_named(field_text(step_, *goes_in)) : nullptr;
            const PartResult* made =
                tool && session_->results().evaluation() ? session_->results().evaluation()->part(tool->id) : nullptr;
            ContactSituation situation;
            if (host && tool && made)
                situation = contact_situation(*session_->project(), *host, {}, *tool, made->bodies,
                                              session_->results().place_of(host->id).inverse() *
                                                  session_->results().place_of(tool->id));
            auto resolved = resolve_fit_field(*session_->project(), text.toStdString(), situation, values,
                                              {host.get(), tool.get()});
            // Whether a roof lies over it takes a look into the host: that was done with the contacts, beside this
            // thread.
            if (session_->results().analysis_is_current())
                for (const ContactResult& c : session_->results().analysis()->contacts)
                    if (c.step == step_.id && c.part_b == part_ && c.wanted && resolved) resolved = *c.wanted;
            bool named = find_fit(session_->project()->fits, text.toStdString());
            QString gap = resolved ? QString::fromStdString(format_fixed(resolved->gap_mm, 2) + " mm") : QString();
            field->set_value(named ? text : "gap", text, gap);
            if (resolved) field->setToolTip("fit: " + as_shown(resolved->sum));
        } else if (what.kind == FieldKind::Choice) {
            field->set_value(choice_words(text.toStdString()), text);
        } else {
            field->set_value(field_words(*session_->project(), part_, what, field_value(step_, what)), text);
        }
    }
    setAccessibleName(QString("Step %1: ").arg(index_ + 1) + sentence_of(*session_->project(), part_, step_, values));
    const bool failed = outcome && !outcome->ok;
    const bool other = failed != std::exchange(failed_, failed);
    if (!step_.on) return;
    QString says = outcome ? as_shown(outcome->says) : QString();
    if (other || says != says_->text())
        says_->setStyleSheet(QString("color: %1").arg(theme::css(failed_ ? Role::Wrong : Role::SoftInk)));
    says_->setText(says);
    says_->setVisible(!says.isEmpty());
    offered_ = outcome ? outcome->cure : std::nullopt;
    cure_->setVisible(offered_.has_value());
    if (offered_) {
        QString words =
            "Set " + QString::fromStdString(offered_->field).replace('_', ' ') + " to " + as_shown(offered_->text);
        if (!offered_->words.empty()) words = as_shown(offered_->words);
        cure_->setText(words);
    }
    if (auto* number = findChild<QLabel*>("number"); number && (other || number->accessibleName().isEmpty())) {
        number->setStyleSheet(QString("color: %1; font-weight: %2")
                                  .arg(theme::css(failed_ ? Role::Wrong : Role::SoftInk), failed_ ? "bold" : "normal"));
        number->setAccessibleName(failed_ ? QString("Step %1 failed").arg(index_ + 1)
                                          : QString("Step %1").arg(index_ + 1));
    }
}

bool StepRow::take(const Step& step, size_t index) {
    Step other = step;
    other.fields = step_.fields;
    if (index != index_ || !(other == step_)) return false; // more than numbers: it is laid out anew
    const StepKind* kind = find_step_kind(step.kind);
    for (const auto& [name, value] : step.fields) {
        const StepField* field = kind ? kind->field(name) : nullptr;
        auto now = step_.fields.find(name);
        if (!field || (now != step_.fields.end() && now->second == value)) continue;
        // A field that shows as another kind of thing now, or leaves the fold of usual numbers, needs another row.
        const std::string before = now == step_.fields.end() ? field->standard : now->second.text();
        if (is_plain_number(before) != is_plain_number(value.text())) return false;
        if ((before == field->standard) != (value.text() == field->standard)) return false;
    }
    step_ = step;
    return true;
}

void StepRow::take_cure() {
    if (!offered_) return;
    FieldCure cure = *offered_;
    if (cure.add_step.empty()) {
        session_->document().edit(SetField{part_, step_.id, cure.field, cure.text});
        return;
    }
    Step next;
    next.kind = cure.add_step;
    next.fields = {{cure.field, cure.text}};
    session_->document().edit(AddStep{part_, next, cure.before ? index_ : index_ + 1});
}

ValueField* StepRow::field(const std::string& name) const {
    auto found = fields_.find(name);
    return found == fields_.end() ? nullptr : found->second;
}

std::vector<std::string> StepRow::stops() const {
    std::vector<std::string> shown;
    for (const std::string& name : order_)
        if (fields_.at(name)->isVisibleTo(this)) shown.push_back(name);
    return shown;
}

QString StepRow::text() const {
    QStringList words;
    for (const QLabel* label : findChildren<QLabel*>())
        if (label->objectName() != "number") words << label->text();
    for (const auto& [name, field] : fields_) words << field->shown();
    return words.join(' ');
}

void StepRow::set_active(bool on) {
    if (active_ == on) return;
    active_ = on;
    update();
}

void StepRow::paintEvent(QPaintEvent*) {
    if (!active_) return;
    QPainter p(this);
    p.fillRect(rect(), theme::colour(Role::Wash));
    p.fillRect(QRect(0, 0, 3, height()), theme::colour(Role::Accent));
}

void StepRow::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton && event->position().x() < 40)
        pressed_ = event->globalPosition().toPoint();
    else
        QWidget::mousePressEvent(event);
}

void StepRow::mouseMoveEvent(QMouseEvent* event) {
    if (!pressed_) return QWidget::mouseMoveEvent(event);
    QPoint now = event->globalPosition().toPoint();
    if (std::abs(now.y() - pressed_->y()) > 6) dragging_ = true;
    if (!dragging_) return;
    setCursor(Qt::ClosedHandCursor);
    emit dragged(now);
}

void StepRow::mouseReleaseEvent(QMouseEvent* event) {
    if (!pressed_) return QWidget::mouseReleaseEvent(event);
    pressed_.reset();
    unsetCursor();
    if (std::exchange(dragging_, false)) emit dropped(event->globalPosition().toPoint());
}

void StepRow::contextMenuEvent(QContextMenuEvent* event) {
    open_menu(event->globalPos());
}

/// A name is typed on the row itself. Keeping it may take the row away.
void StepRow::ask_in_place(const QString& what, const QString& shown, const QString& now,
                           const std::function<void(const std::string&)>& keep) {
    auto* editor = new ValueField(ValueField::Look::Reference, this);
    editor->set_value(shown, now);
    editor->set_label(what, what);
    editor->setGeometry(34, 3, 180, 26);
    editor->show();
    connect(editor, &ValueField::submitted, this, [editor, keep](const QString& text) {
        QPointer<ValueField> alive(editor);
        keep(text.trimmed().toStdString());
        if (alive) alive->deleteLater();
    });
    editor->begin_edit();
    if (editor->editor()) connect(editor->editor(), &QObject::destroyed, editor, &QObject::deleteLater);
}

void StepRow::open_menu(const QPoint& at) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    PartPtr part = session_->project()->part(part_);
    if (!part) return;
    bool hidden = std::any_of(groups_.begin(), groups_.end(), [&](const auto& g) { return !unusual_.count(g.first); });
    if (hidden)
        connect(menu->addAction("Show every number of this step"), &QAction::triggered, this,
                [this] { show_groups(true); });
    if (const StepKind* kind = find_step_kind(step_.kind); kind && kind->draws())
        connect(menu->addAction("Draw in it"), &QAction::triggered, this,
                [this] { session_->draw_outline(part_, step_.id); });
    auto act_in = [&](QMenu* in, const QString& words, Edit edit) {
        connect(in->addAction(words), &QAction::triggered, session_,
                [s = session_, edit] { s->document().edit(edit); });
    };
    auto act = [&](const QString& words, Edit edit) { act_in(menu, words, std::move(edit)); };
    // A group begins here and takes in what follows, up to the end or the next group.
    if (step_.group.empty()) {
        connect(menu->addAction("Group from here on …"), &QAction::triggered, this, [this] {
            ask_in_place("Name of the group", "group", "", [this](const std::string& name) {
                PartPtr its = session_->project()->part(part_);
                GroupSteps group{part_, {}, name};
                for (size_t i = index_; its && i < its->steps.size() && its->steps[i].group.empty(); ++i)
                    group.steps.push_back(its->steps[i].id);
                if (!name.empty()) session_->document().edit(group);
            });
        });
    } else {
        GroupSteps out{part_, {}, {}}; // from here on: what stands before stays in it
        for (size_t i = index_; i < part->steps.size() && part->steps[i].group == step_.group; ++i)
            out.steps.push_back(part->steps[i].id);
        act("Out of the group from here on", out);
        GroupSteps whole{part_, {}, {}};
        for (const Step& s : part->steps)
            if (s.group == step_.group) whole.steps.push_back(s.id);
        act("Dissolve the group", whole);
    }
    act(step_.on ? "Switch off" : "Switch on", SwitchStep{part_, step_.id, !step_.on});
    if (index_ > 0) act("Move up", MoveStep{part_, step_.id, index_ - 1});
    if (index_ + 1 < part->steps.size()) act("Move down", MoveStep{part_, step_.id, index_ + 1});
    act("Copy below", CopyStep{part_, step_.id, part_, index_ + 1});
    connect(menu->addAction("Choose what it made"), &QAction::triggered, session_,
            [s = session_, part = part_, step = step_.id] { choose_faces_of_step(*s, part, step); });
    bool here = session_->workspace().wound_back(part_) == step_.id;
    connect(menu->addAction(here ? "Wind forward again" : "Wind back to here"), &QAction::triggered, session_,
            [s = session_, part = part_, step = here ? StepId() : step_.id] { s->workspace().wind_back(part, step); });
    QMenu* other = menu->addMenu("Copy to another part");
    for (const PartPtr& target : session_->project()->parts)
        if (target->id != part_)
            act_in(other, QString::fromStdString(target->name), CopyStep{part_, step_.id, target->id, {}});
    other->setEnabled(!other->isEmpty());
    connect(menu->addAction("Name it …"), &QAction::triggered, this, [this] {
        const QString now = QString::fromStdString(step_.name);
        ask_in_place("Name of the step", now, now, [this](const std::string& name) {
            session_->document().edit(NameStep{part_, step_.id, name});
        });
    });
    connect(menu->addAction("What is this?"), &QAction::triggered, session_,
            [s = session_, kind = QString::fromStdString(step_.kind)] { emit s->help_wanted("step:" + kind); });
    menu->addSeparator();
    act("Remove", RemoveStep{part_, step_.id});
    menu->popup(at);
}

} // namespace lp
