#include "app/view/picture_maker.h"
#include <QElapsedTimer>
#include <QOpenGLContext>

namespace lp {

namespace {

constexpr int rounds_of_warming = 4;

/// A driver compiles a program when it draws with it for the first time: tens of milliseconds each in software. That is
/// done while nobody waits, on pictures nobody sees: plain, with edges, see-through, with something chosen.
void warm_up(Renderer& renderer, int round) {
    TriMesh spike;
    spike.vertices = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    spike.triangles = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {2, 0, 3}};
    SceneBody body;
    body.shape = std::make_shared<const Tessellation>(segment_mesh(std::move(spike)));
    body.colour = Qt::gray;
    body.stand_in = round == 2;
    Scene scene;
    scene.edges = round > 0;
    scene.bodies = {body};
    if (round == 3) scene.selected = {{Pick::Kind::Face, body.part, body.body, 0}};
    renderer.render(scene, Camera(), QSize(16, 16), 1);
}

} // namespace

PictureMaker::PictureMaker(QObject* parent) : QObject(parent), surface_(Renderer::make_surface()) {
    if (QOpenGLContext::supportsThreadedOpenGL())
        thread_ = std::thread([this] { work(); });
    else
        here_ = std::make_unique<Renderer>(surface_);
}

PictureMaker::~PictureMaker() {
    {
        std::lock_guard lock(mutex_);
        ending_ = true;
    }
    wanted_.notify_one();
    if (thread_.joinable()) thread_.join();
}

void PictureMaker::order(PictureOrder order) {
    std::unique_lock lock(mutex_);
    ordered_ = std::move(order);
    if (here_) return draw(*here_, lock);
    wanted_.notify_one();
}

std::optional<Picture> PictureMaker::take() {
    std::lock_guard lock(mutex_);
    return std::exchange(made_, {});
}

void PictureMaker::wait() {
    std::unique_lock lock(mutex_);
    done_.wait(lock, [this] { return !ordered_ && !drawing_; });
}

bool PictureMaker::busy() const {
    std::lock_guard lock(mutex_);
    return ordered_ || drawing_;
}

QString PictureMaker::problem() const {
    std::lock_guard lock(mutex_);
    return problem_;
}

void PictureMaker::work() {
    Renderer renderer(surface_); // its context belongs to this thread
    int warmed = 0;
    std::unique_lock lock(mutex_);
    while (!ending_) {
        if (ordered_) {
            draw(renderer, lock);
        } else if (warmed < rounds_of_warming) {
            lock.unlock();
            warm_up(renderer, warmed++);
            lock.lock();
        } else {
            wanted_.wait(lock, [this] { return ordered_ || ending_; });
        }
    }
}

void PictureMaker::draw(Renderer& renderer, std::unique_lock<std::mutex>& lock) {
    const PictureOrder order = std::move(*ordered_);
    ordered_.reset();
    drawing_ = true;
    lock.unlock();
    QElapsedTimer timer;
    timer.start();
    renderer.set_moving(order.moving);
    Picture picture{renderer.render(order.scene, order.camera, order.pixels, order.pixel_ratio), order.camera};
    picture.took_ms = double(timer.nsecsElapsed()) / 1e6;
    lock.lock();
    problem_ = renderer.problem();
    made_ = std::move(picture);
    drawing_ = false;
    done_.notify_all();
    lock.unlock();
    emit ready();
    lock.lock();
}

} // namespace lp
