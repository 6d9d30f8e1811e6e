// Ways a part could lie, side by side over the view: a picture each with what it costs; one press lays the part so.
#pragma once
#include "app/session.h"
#include "app/view/picture_maker.h"
#include "project/pose_choices.h"
#include <QLabel>
#include <QPointer>

class QHBoxLayout;

namespace lp {

class PoseCard;
class ViewWidget;

class PoseCards : public QWidget {
    Q_OBJECT
  public:
    PoseCards(Session* session, ViewWidget* view);
    /// Works out the ways up of the active part beside the interface and shows them when they are there.
    void compare();
    const std::vector<PoseChoice>& choices() const { return choices_; }
    QList<QPushButton*> cards() const;
    QString sentence() const { return sentence_->text(); }

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    bool eventFilter(QObject* object, QEvent* event) override;

  private:
    void show_choices(PartId part, std::vector<PoseChoice> choices);
    void follow(); ///< what became of the part meanwhile
    void lay(size_t choice);
    void draw_next();
    void take_picture();
    void place();
    void close_cards();
    void add_words(const QString& words);
    void switch_weights();
    void show_weights();

    Session* session_;
    ViewWidget* view_;
    QLabel* sentence_;
    QHBoxLayout* row_;
    std::vector<PoseCard*> cards_;
    PartId part_;
    std::shared_ptr<const TriMesh> mesh_; ///< of the part, for which they were worked out
    std::vector<MarkedFace> marks_;       ///< with which they were worked out
    std::optional<Vec3> load_;            ///< the same
    PoseWeights weights_;                 ///< the same
    QWidget* counts_ = nullptr;           ///< what counts, in numbers; null while it is folded
    QPushButton* count_button_;
    std::vector<PoseChoice> choices_;
    std::unique_ptr<PictureMaker> maker_;
    size_t drawn_ = 0; ///< cards that have their picture
};

} // namespace lp
