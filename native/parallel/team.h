// Threads that wait for work, and do it together.
#pragma once

#include <atomic>
#include <condition_variable>
#include <functional>
#include <mutex>
#include <thread>
#include <vector>

#include "geometry/views.h"

namespace mooring {

class Team {
  public:
    // So many threads in all, with the one that calls.
    explicit Team(unsigned threads) {
        for (unsigned k = 1; k < threads; ++k) {
            members_.emplace_back([this, k] { serve(k); });
        }
    }
    Team(const Team&) = delete;
    Team& operator=(const Team&) = delete;
    ~Team() {
        {
            const std::lock_guard lock(mutex_);
            ended_ = true;
        }
        called_.notify_all();
        for (std::thread& member : members_) {
            member.join();
        }
    }

    std::size_t size() const { return members_.size() + 1; }

    // Calls work(item, member) for all items, whichever member comes first.
    void share(Index items, const std::function<void(Index, std::size_t)>& work) {
        {
            const std::lock_guard lock(mutex_);
            work_ = &work;
            items_ = items;
            next_ = 0;
            busy_ = members_.size();
            ++round_;
        }
        called_.notify_all();
        take_items(0);
        std::unique_lock lock(mutex_);
        done_.wait(lock, [this] { return busy_ == 0; });
    }

  private:
    void take_items(std::size_t member) {
        for (Index item = next_++; item < items_; item = next_++) {
            (*work_)(item, member);
        }
    }

    void serve(std::size_t member) {
        std::size_t seen = 0;
        while (true) {
            {
                std::unique_lock lock(mutex_);
                called_.wait(lock, [&] { return ended_ || round_ != seen; });
                if (ended_) {
                    return;
                }
                seen = round_;
            }
            take_items(member);
            {
                const std::lock_guard lock(mutex_);
                --busy_;
            }
            done_.notify_one();
        }
    }

    std::vector<std::thread> members_;
    std::mutex mutex_;
    std::condition_variable called_, done_;
    const std::function<void(Index, std::size_t)>* work_ = nullptr;
    std::atomic<Index> next_{0};
    Index items_ = 0;
    std::size_t busy_ = 0, round_ = 0;
    bool ended_ = false;
};

}  // namespace mooring
