// Draws pictures of a scene on a thread of its own, so that nobody waits for one: the newest order is drawn, an older
// one that was not begun is dropped.
#pragma once
#include "app/view/renderer.h"
#include <QObject>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

namespace lp {

struct PictureOrder {
    Scene scene;
    Camera camera;
    QSize pixels;
    double pixel_ratio = 1;
    bool moving = false; ///< Renderer::set_moving()
};

struct Picture {
    QImage image; ///< empty when drawing does not work
    Camera camera;
    double took_ms = 0;
};

class PictureMaker : public QObject {
    Q_OBJECT
  public:
    explicit PictureMaker(QObject* parent = nullptr);
    ~PictureMaker() override;
    void order(PictureOrder order);
    /// The newest picture, once.
    std::optional<Picture> take();
    /// Until all that was ordered is drawn.
    void wait();
    bool busy() const;
    /// Empty when drawing works, else why it does not; known with the first picture.
    QString problem() const;

  signals:
    void ready(); ///< a picture can be taken

  private:
    void work();
    void draw(Renderer& renderer, std::unique_lock<std::mutex>& lock);

    std::shared_ptr<QOffscreenSurface> surface_;
    mutable std::mutex mutex_;
    std::condition_variable wanted_, done_;
    std::optional<PictureOrder> ordered_;
    std::optional<Picture> made_;
    QString problem_;
    bool drawing_ = false, ending_ = false;
    std::unique_ptr<Renderer> here_; ///< where the driver draws on the interface's thread only
    std::thread thread_;
};

} // namespace lp
