// Plays a small program with one writer through everything that the memory model lets its readers see.
#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <functional>
#include <map>
#include <vector>

namespace test {

/// Which messages a thread has seen of each place, at least: by place, the number of the message.
using View = std::map<const void*, std::size_t>;

/// The writer runs first and to its end: it reads nothing that others write, so all it does is to leave messages. A
/// reader may then see, at each load, any message that is not older than what it has seen of that place; and by an
/// acquiring load of a released message it has seen all that the writer had done. That covers every interleaving, on
/// every machine, and all of them are tried: `explore` runs the reader again and again, each time with other choices.
class MemoryModel {
public:
    static MemoryModel*& current() {
        thread_local MemoryModel* model = nullptr;
        return model;
    }

    void write() { reading_ = false; }
    /// Runs `reader` once for each way its loads can come out; returns how many there were. Not more than `limit`.
    std::uint64_t explore(const std::function<void()>& reader, std::uint64_t limit) {
        reading_ = true;
        choices_.clear();
        for (std::uint64_t runs = 1;; ++runs) {
            next_ = 0;
            view_.clear();
            reader();
            while (!choices_.empty() && choices_.back().taken + 1 == choices_.back().of) choices_.pop_back();
            if (choices_.empty() || runs == limit) return runs;
            ++choices_.back().taken;
        }
    }

    struct Message {
        std::uint64_t value;
        View seen;
    };

    void store(const void* place, std::vector<Message>& messages, std::uint64_t value, bool releases) {
        view_[place] = messages.size();
        messages.push_back({value, releases ? view_ : View{{place, messages.size()}}});
    }
    std::uint64_t load(const void* place, const std::vector<Message>& messages, bool acquires) {
        std::size_t& seen = view_[place];
        if (reading_) seen += choose(messages.size() - seen);
        const Message& message = messages[reading_ ? seen : messages.size() - 1];
        if (acquires)
            for (const auto& [other, number] : message.seen) view_[other] = std::max(view_[other], number);
        return message.value;
    }

private:
    struct Choice {
        std::size_t taken, of;
    };
    // The newest first: a reader that loops until it sees the end does end.
    std::size_t choose(std::size_t of) {
        if (next_ == choices_.size()) choices_.push_back({0, of});
        return of - 1 - choices_[next_++].taken;
    }

    bool reading_ = false;
    View view_;
    std::vector<Choice> choices_;
    std::size_t next_ = 0;
};

/// In std::atomic's place, within the current MemoryModel.
template <typename Value>
class ModelAtomic {
public:
    ModelAtomic() : ModelAtomic{Value{}} {}
    explicit ModelAtomic(Value value) { messages_.push_back({value, {}}); }
    void store(Value value, std::memory_order order) {
        MemoryModel::current()->store(this, messages_, value, order == std::memory_order_release);
    }
    Value load(std::memory_order order) const {
        return static_cast<Value>(MemoryModel::current()->load(this, messages_, order == std::memory_order_acquire));
    }

private:
    std::vector<MemoryModel::Message> messages_;
};

}  // namespace test
