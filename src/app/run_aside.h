// File work beside the interface thread.
#pragma once
#include <QCoreApplication>
#include <QEventLoop>
#include <future>

namespace lp {

/// Runs work on a thread of its own and keeps the window alive meanwhile, without taking input: packing or unpacking a
/// long history or reading a large file takes longer than a frame.
template <class Work> auto run_aside(Work work) {
    auto result = std::async(std::launch::async, std::move(work));
    while (result.wait_for(std::chrono::milliseconds(4)) != std::future_status::ready)
        QCoreApplication::processEvents(QEventLoop::ExcludeUserInputEvents, 8);
    return result.get();
}

} // namespace lp
