#include "app/view/pose_cards.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/view/view_widget.h"
#include "app/widgets/column.h"
#include "project/joint_gaps.h"
#include "project/split_comparison.h"
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <QPushButton>

namespace lp {

using theme::Role;

namespace {
constexpr int picture_high = 74, line_high = 16, head_high = 34;
int height_of(qsizetype lines) {
    return picture_high + int(lines) * line_high + 14;
}

QString number(double value, int decimals) {
    return QString::fromStdString(format_number(value, decimals));
}

/// What a way up costs, line by line; the last says what it stands on, or why it does not stand.
QStringList words_of(const PoseChoice& c) {
    QStringList words;
    words << (c.supports_mm3 < 1 ? QString("no supports")
                                 : number(c.supports_mm3 / 1000, c.supports_mm3 < 100 ? 2 : 1) + " cm³ supports");
    if (c.problem.empty())
        words << QString::fromStdString(format_duration(c.time_s)) << number(c.mass_g, 1) + " g";
    else
        words << "no layers"
              << "";
    words << number(c.pose.height_mm, 0) + " mm high";
    if (c.marked)
        words << (c.pose.kept_off_mm2 >= 1 ? number(c.pose.kept_off_mm2 / 100, 1) + " cm² hang bare"
                                           : number(c.pose.rough_marked_mm2 / 100, 1) + " cm² rough");
    if (c.bored)
        words
            << (c.pose.lying_bores
                    ? QString("%1 %2").arg(c.pose.lying_bores).arg(c.pose.lying_bores == 1 ? "hole lies" : "holes lie")
                    : QString("holes stand"));
    if (c.jointed) words << QString(c.pose.joints_hang_mm2 >= joint_hangs_from_mm2 ? "joint hangs" : "joint lies well");
    if (c.loaded) words << number(100 * c.pose.load_across, 0) + " % load across";
    const double stands_mm2 = c.pose.footprint_mm2;
    words << (!c.pose.fits_bed    ? QString("too big")
              : c.pose.tips_over  ? QString("tips over")
              : stands_mm2 >= 100 ? "on " + number(stands_mm2 / 100, 1) + " cm²"
              : stands_mm2 >= 0.5 ? "on " + number(stands_mm2, 0) + " mm²"
                                  : QString("on an edge"));
    return words;
}
} // namespace

class PoseCard : public QPushButton {
  public:
    PoseCard(const PoseChoice& choice, QWidget* parent)
        : QPushButton(parent), words_(words_of(choice)), bad_(choice.pose.tips_over || !choice.pose.fits_bed) {
        setFixedHeight(height_of(words_.size()));
        setMinimumWidth(92);
        setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        QStringList spoken = words_;
        spoken.removeAll("");
        setAccessibleDescription(spoken.join(", "));
        setToolTip(choice.problem.empty() ? "Lay the part so" : QString::fromStdString(choice.problem));
    }
    QSize picture_size() const { return {width() - 8, picture_high}; }
    void set_picture(const QImage& picture) {
        picture_ = picture;
        update();
    }
    void set_now(bool now, size_t number) {
        now_ = now;
        setAccessibleName(QString(now ? "How it lies now, %1" : "Way up %1").arg(number));
        update();
    }

  protected:
    void paintEvent(QPaintEvent* event) override {
        QPushButton::paintEvent(event);
        QPainter p(this);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        const QRect picture(QPoint(4, 4), picture_size());
        if (picture_.isNull())
            p.fillRect(picture, theme::colour(Role::ViewBottom));
        else
            p.drawImage(picture, picture_);
        if (now_) {
            p.setFont(theme::words(11, QFont::Bold));
            const QRect tag(picture.left(), picture.top(), p.fontMetrics().horizontalAdvance("lies so now") + 12, 18);
            p.fillRect(tag, theme::colour(Role::Accent));
            p.setPen(theme::colour(Role::OnAccent));
            p.drawText(tag, Qt::AlignCenter, "lies so now");
        }
        for (int i = 0; i < words_.size(); ++i) {
            p.setFont(theme::words(11.5, i == 0 || (bad_ && i + 1 == words_.size()) ? QFont::Bold : QFont::Medium));
            p.setPen(theme::colour(bad_ && i + 1 == words_.size() ? Role::Wrong : i == 0 ? Role::Ink : Role::SoftInk));
            const QRect line(7, picture.bottom() + 4 + i * line_high, width() - 12, line_high);
            p.drawText(line, Qt::AlignVCenter | Qt::AlignLeft,
                       p.fontMetrics().elidedText(words_[i], Qt::ElideRight, line.width()));
        }
    }

  private:
    QStringList words_;
    bool bad_, now_ = false;
    QImage picture_;
};

PoseCards::PoseCards(Session* session, ViewWidget* view) : QWidget(view), session_(session), view_(view) {
    setObjectName("pose-cards");
    setAccessibleName("Ways up, the best first");
    theme::give_ground(this, Role::Card);
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(10, 4, 10, 10);
    rows->setSpacing(2);
    auto* head = new QHBoxLayout;
    sentence_ = new QLabel(this);
    sentence_->setFont(theme::words(13, QFont::Bold));
    sentence_->setWordWrap(true);
    head->addWidget(sentence_, 1);
    count_button_ = new QPushButton("What counts", this);
    count_button_->setCheckable(true);
    count_button_->setToolTip("How many points each thing costs that is compared here");
    connect(count_button_, &QPushButton::clicked, this, &PoseCards::switch_weights);
    head->addWidget(count_button_);
    auto* away = new QPushButton("Done", this);
    away->setToolTip("Puts these away (Esc)");
    connect(away, &QPushButton::clicked, this, &PoseCards::close_cards);
    head->addWidget(away);
    rows->addLayout(head);
    row_ = new QHBoxLayout;
    row_->setSpacing(6);
    rows->addLayout(row_);
    hide();
    view->installEventFilter(this);
    connect(&session->results(), &Results::evaluated, this, &PoseCards::follow);
    connect(&session->workspace(), &Workspace::stretch_changed, this, &PoseCards::follow);
    connect(&session->workspace(), &Workspace::active_part_changed, this, &PoseCards::follow);
}

QList<QPushButton*> PoseCards::cards() const {
    return {cards_.begin(), cards_.end()};
}

void PoseCards::compare() {
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    if (!part || part->stand_in) return session_->say("Choose a part that is printed.", true);
    if (!session_->results().evaluation_is_current()) return session_->say("The parts are still being made.", true);
    marks_ = part->marks;
    load_ = part->load;
    weights_ = session_->project()->pose_weights;
    session_->worker().start(Lane::Asked, "poses",
                             [this, id = part->id, made = session_->results().shared_evaluation()](const Task& task) {
                                 auto choices = pose_choices(*made, id, task);
                                 session_->worker().post([this, id, choices = std::move(choices)] {
                                     if (choices) return show_choices(id, *choices);
                                     if (choices.error().code != ProblemCode::Cancelled)
                                         session_->say(QString::fromStdString(choices.error().text()), true);
                                 });
                                 if (auto split = compare_split(*made, id, task))
                                     session_->worker().post([this, id, words = split_words(*split)] {
                                         if (part_ == id && !isHidden()) add_words(QString::fromStdString(words));
                                     });
                             });
}

void PoseCards::show_choices(PartId part, std::vector<PoseChoice> choices) {
    if (session_->workspace().active_part() != part || session_->workspace().stretch() != Stretch::Bed) return;
    const PartResult* made = session_->results().evaluation()->part(part);
    if (!made || !made->mesh) return;
    const bool were_shown = !isHidden();
    part_ = part;
    mesh_ = made->mesh;
    choices_ = std::move(choices);
    sentence_->setText(as_shown(QString::fromStdString(why_first(choices_))));
    for (PoseCard* card : cards_) delete card;
    cards_.clear();
    for (size_t i = 0; i < choices_.size(); ++i) {
        cards_.push_back(new PoseCard(choices_[i], this));
        connect(cards_.back(), &QPushButton::clicked, this, [this, i] { lay(i); });
        row_->addWidget(cards_.back());
    }
    place();
    show();
    raise();
    follow();
    if (!cards_.empty() && !were_shown) cards_.front()->setFocus(Qt::OtherFocusReason);
    drawn_ = 0;
    if (!maker_) {
        maker_ = std::make_unique<PictureMaker>();
        connect(maker_.get(), &PictureMaker::ready, this, &PoseCards::take_picture);
    }
    QTimer::singleShot(0, this, &PoseCards::draw_next); // the cards have their sizes then
}

/// What is worked out after the cards stand, under their sentence.
void PoseCards::add_words(const QString& words) {
    sentence_->setText(sentence_->text() + "\n" + as_shown(words));
    place();
}

void PoseCards::follow() {
    if (isHidden()) return;
    const PartResult* made = session_->results().evaluation() ? session_->results().evaluation()->part(part_) : nullptr;
    auto same_mesh = [&](const TriMesh& mesh) { // it may have been made again for another reason
        return &mesh == mesh_.get() || (mesh.vertices == mesh_->vertices && mesh.triangles == mesh_->triangles);
    };
    const bool same = made && made->mesh && session_->workspace().active_part() == part_ &&
                      session_->workspace().stretch() == Stretch::Bed && same_mesh(*made->mesh);
    if (!same) return close_cards();
    if (const PartPtr part = session_->project()->part(part_);
        part && (part->marks != marks_ || part->load != load_ || session_->project()->pose_weights != weights_)) {
        if (counts_ && session_->project()->pose_weights != weights_) show_weights();
        return compare();
    }
    const Vec3 up = session_->results().pose_of(part_).linear().transpose() * Vec3::UnitZ();
    for (size_t i = 0; i < cards_.size(); ++i)
        cards_[i]->set_now(choices_[i].pose.up.dot(up) > std::cos(radians(2.0)), i + 1);
}

void PoseCards::lay(size_t choice) {
    if (choice < choices_.size()) session_->document().edit(SetPose{part_, pose_with_up(choices_[choice].pose.up)});
}

/// One picture after the other: the part alone on its bed.
void PoseCards::draw_next() {
    if (isHidden() || drawn_ >= cards_.size()) return;
    const PartResult* made = session_->results().evaluation()->part(part_);
    const PartPtr part = session_->project()->part(part_);
    if (!made || !part) return;
    Scene scene;
    scene.bed_mm = session_->project()->printer.bed_mm;
    const Transform pose = pose_transform(*mesh_, -choices_[drawn_].pose.up, Vec3::Zero());
    for (size_t i = 0; i < made->bodies.size(); ++i) {
        SceneBody body;
        body.part = part_;
        body.body = i;
        body.shape = made->bodies[i].body.shared_tessellation();
        body.colour = QColor(QString::fromStdString(part->colour));
        body.place = pose;
        scene.bodies.push_back(std::move(body));
    }
    PictureOrder order;
    order.pixel_ratio = devicePixelRatioF();
    order.pixels = (QSizeF(cards_[drawn_]->picture_size()) * order.pixel_ratio).toSize();
    order.camera.fit(scene.box(), order.pixels);
    order.scene = std::move(scene);
    maker_->order(std::move(order));
}

void PoseCards::take_picture() {
    const auto picture = maker_->take();
    if (!picture || drawn_ >= cards_.size()) return;
    cards_[drawn_++]->set_picture(picture->image);
    draw_next();
}

/// The numbers under the sentence, or away with them.
void PoseCards::switch_weights() {
    if (counts_) {
        counts_->deleteLater();
        counts_->hide();
        counts_ = nullptr;
    } else {
        show_weights();
    }
    count_button_->setChecked(counts_ != nullptr);
    place();
}

void PoseCards::show_weights() {
    const auto* edited = counts_ ? qobject_cast<ValueField*>(QApplication::focusWidget()) : nullptr;
    const QString held = edited && counts_->isAncestorOf(edited) ? edited->accessibleName() : QString();
    if (counts_) counts_->hide(), counts_->deleteLater();
    counts_ = new QWidget(this);
    auto* grid = new QGridLayout(counts_);
    grid->setContentsMargins(0, 0, 0, 4);
    grid->setHorizontalSpacing(12);
    grid->setVerticalSpacing(0);
    grid->addWidget(make_note("Points that each thing costs: the way up with the fewest comes first.", false, counts_),
                    0, 0, 1, 2);
    int n = 2;
    for (const PoseWeightRow& row : pose_weight_rows()) {
        ValueRow line = make_value_row(row.words, row.hint, counts_);
        bind_number(session_, line, std::string("ways ") + row.key);
        line.row->setToolTip(row.hint);
        grid->addWidget(line.row, n / 2, n % 2);
        if (!held.isEmpty() && line.field->accessibleName() == held) line.field->setFocus();
        ++n;
    }
    qobject_cast<QVBoxLayout*>(layout())->insertWidget(1, counts_);
    counts_->show();
    count_button_->setChecked(true);
    place();
}

void PoseCards::place() {
    int wide = view_->width() - 24, high = (cards_.empty() ? 0 : cards_[0]->height()) + head_high + 14;
    high += 18 * int(sentence_->text().count('\n'));
    if (counts_) high += counts_->sizeHint().height() + 2;
    setGeometry(12, std::max(0, view_->height() - high - 12), wide, high);
}

void PoseCards::close_cards() {
    const bool had_focus = isAncestorOf(QApplication::focusWidget());
    hide();
    if (had_focus) view_->setFocus();
}

void PoseCards::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) return close_cards();
    QWidget::keyPressEvent(event);
}

bool PoseCards::eventFilter(QObject* object, QEvent* event) {
    if (object == view_ && event->type() == QEvent::Resize && !isHidden()) place();
    return false;
}

} // namespace lp
