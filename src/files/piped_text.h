#pragma once
/// \file
/// Rows as text, made on several threads and written in order, while the next are worked out.
///
/// \par Method
/// Items are gathered into batches. While one is gathered, the one before is put into words in pieces, by whoever is
/// free, and the one before that is written by a thread of its own.
///
/// \par Memory
/// Four batches of up to 65,536 items and 8 MB of text, however many there are in all and however long one is.
#include <tbb/task_group.h>

#include <algorithm>
#include <condition_variable>
#include <deque>
#include <exception>
#include <functional>
#include <memory>
#include <mutex>
#include <span>
#include <string>
#include <thread>
#include <vector>

#include "files/atomic_file.h"

namespace otoro::files {

template <class Item>
class PipedText {
public:
    /// Puts items into words at `out`; returns the end. Called from several threads.
    using Format = std::function<char*(std::span<const Item>, char* out)>;

    /// \param longest no item takes more bytes
    PipedText(CheckedFile& file, Format format, std::size_t longest)
        : file_(file),
          format_(std::move(format)),
          longest_(longest),
          piece_(std::clamp<std::size_t>(kRoom / std::max<std::size_t>(1, longest), 1, kMostInAPiece)),
          writer_([this] { write_all(); }) {}
    ~PipedText() {
        group_.cancel();
        group_.wait();
        end();
    }
    PipedText(const PipedText&) = delete;
    PipedText& operator=(const PipedText&) = delete;

    /// \throws what writing has thrown meanwhile
    void add(std::span<const Item> items) {
        while (!items.empty()) {
            const std::size_t room = std::min(items.size(), batch() - gathered_->items.size());
            gathered_->items.insert(gathered_->items.end(), items.begin(),
                                    items.begin() + static_cast<std::ptrdiff_t>(room));
            items = items.subspan(room);
            if (gathered_->items.size() == batch()) pass_on();
        }
    }
    /// Everything is in the file when it returns. \throws what writing has thrown
    void finish() {
        pass_on();
        pass_on();
        end();
        if (failed_) std::rethrow_exception(failed_);
    }

private:
    static constexpr std::size_t kPieces = 32, kMostInAPiece = 2'048, kRoom = 256'000, kMostWaiting = 1;
    [[nodiscard]] std::size_t batch() const { return kPieces * piece_; }
    struct Piece {
        std::unique_ptr<char[]> text;  // NOLINT(modernize-avoid-c-arrays): room that is not cleared
        std::size_t length = 0;
    };
    struct Batch {
        std::vector<Item> items;
        std::vector<Piece> pieces;
    };
    using BatchPtr = std::unique_ptr<Batch>;

    void pass_on() {
        group_.wait();
        if (worded_) {
            std::unique_lock lock(mutex_);
            changed_.wait(lock, [&] { return waiting_.size() <= kMostWaiting || failed_; });
            if (failed_) std::rethrow_exception(failed_);
            waiting_.push_back(std::move(worded_));
            changed_.notify_all();
        }
        worded_ = std::move(gathered_);
        gathered_ = take_free();
        const std::size_t pieces = (worded_->items.size() + piece_ - 1) / piece_;
        while (worded_->pieces.size() < pieces) {
            // NOLINTNEXTLINE(modernize-avoid-c-arrays)
            worded_->pieces.push_back({std::unique_ptr<char[]>(new char[piece_ * longest_]), 0});
        }
        for (Piece& piece : worded_->pieces) piece.length = 0;
        for (std::size_t p = 0; p < pieces; ++p)
            group_.run([this, batch = worded_.get(), p] {
                const std::span<const Item> all(batch->items);
                Piece& piece = batch->pieces[p];
                char* const end =
                    format_(all.subspan(p * piece_, std::min(piece_, all.size() - p * piece_)), piece.text.get());
                piece.length = static_cast<std::size_t>(end - piece.text.get());
            });
    }
    BatchPtr take_free() {
        const std::scoped_lock lock(mutex_);
        if (free_.empty()) return std::make_unique<Batch>();
        BatchPtr out = std::move(free_.back());
        free_.pop_back();
        out->items.clear();
        return out;
    }
    void write_all() {
        for (;;) {
            BatchPtr batch;
            {
                std::unique_lock lock(mutex_);
                changed_.wait(lock, [&] { return !waiting_.empty() || ended_; });
                if (waiting_.empty()) return;
                batch = std::move(waiting_.front());
            }
            try {
                for (const Piece& piece : batch->pieces) file_.write({piece.text.get(), piece.length});
            } catch (...) {
                const std::scoped_lock lock(mutex_);
                failed_ = std::current_exception();
            }
            const std::scoped_lock lock(mutex_);
            waiting_.pop_front();
            free_.push_back(std::move(batch));
            if (failed_) {
                waiting_.clear();
                ended_ = true;
            }
            changed_.notify_all();
        }
    }
    void end() {
        {
            const std::scoped_lock lock(mutex_);
            ended_ = true;
            changed_.notify_all();
        }
        if (writer_.joinable()) writer_.join();
    }

    CheckedFile& file_;
    Format format_;
    std::size_t longest_;
    std::size_t piece_;  ///< how many items are put into words at once
    BatchPtr gathered_ = std::make_unique<Batch>(), worded_;
    tbb::task_group group_;
    std::mutex mutex_;
    std::condition_variable changed_;
    std::deque<BatchPtr> waiting_;
    std::vector<BatchPtr> free_;
    bool ended_ = false;
    std::exception_ptr failed_;
    std::thread writer_;
};

}  // namespace otoro::files
