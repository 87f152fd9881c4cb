// A long list as a value: copies share chunks, a change copies one small chunk and the short spine.
#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <vector>

namespace conduit {

/// Marks the chunks that one draft has already made its own, so that a thousand changes in it copy each chunk
/// once. Numbers are never reused and never reach a result.
[[nodiscard]] inline std::uint64_t newOwner() {
  static std::atomic<std::uint64_t> last{0};
  return ++last;
}

/// `T` can be made without arguments; the places of the last chunk that are not in use yet hold such.
template <class T>
class Chunked {
 public:
  /// Small, for it is what a change copies: a thousand changes here and there take as long as 8,000 copies.
  static constexpr std::size_t chunkSize = 8;

  [[nodiscard]] std::size_t size() const { return size_; }
  [[nodiscard]] const T& operator[](std::size_t i) const {
    return (*spine_)[i / chunkSize]->items[i % chunkSize];
  }

  /// A place to change, owned by `owner` alone afterwards.
  [[nodiscard]] T& change(std::size_t i, std::uint64_t owner) {
    return own(i / chunkSize, owner).items[i % chunkSize];
  }
  void append(T item, std::uint64_t owner) {
    if (size_ % chunkSize == 0) {
      auto chunk = std::make_shared<Chunk>();
      chunk->owner = owner;
      spine(owner).push_back(std::move(chunk));
    }
    own(size_ / chunkSize, owner).items[size_ % chunkSize] = std::move(item);
    ++size_;
  }
  void assign(std::size_t count, const T& item, std::uint64_t owner) {
    *this = Chunked();
    reserve(count, owner);
    for (std::size_t i = 0; i < count; ++i) append(item, owner);
  }
  void reserve(std::size_t count, std::uint64_t owner) {
    spine(owner).reserve((count + chunkSize - 1) / chunkSize);
  }
  template <class Visit>
  void each(Visit visit) const {
    for (std::size_t i = 0; i < size_;) {
      const Chunk& chunk = *(*spine_)[i / chunkSize];
      for (std::size_t k = 0; k < chunkSize && i < size_; ++k) visit(i++, chunk.items[k]);
    }
  }
  /// How many chunks are not shared with `other`; undo counts its memory by it.
  [[nodiscard]] std::size_t chunksApart(const Chunked& other) const {
    if (!spine_ || spine_ == other.spine_) return 0;
    std::size_t apart = 0;
    for (std::size_t i = 0; i < spine_->size(); ++i)
      if (!other.spine_ || i >= other.spine_->size() || (*spine_)[i] != (*other.spine_)[i]) ++apart;
    return apart;
  }
  /// Places that may hold something else than in `other`, or that it does not have: those of chunks that are
  /// not shared.
  template <class Visit>
  void eachApart(const Chunked& other, Visit visit) const {
    if (!spine_ || spine_ == other.spine_) return;
    for (std::size_t c = 0; c < spine_->size(); ++c)
      if (!other.spine_ || c >= other.spine_->size() || (*spine_)[c] != (*other.spine_)[c])
        for (std::size_t i = c * chunkSize; i < std::min(size_, (c + 1) * chunkSize); ++i) visit(i);
  }

 private:
  struct Chunk {
    std::array<T, chunkSize> items{};
    std::uint64_t owner = 0;
  };
  using Spine = std::vector<std::shared_ptr<Chunk>>;

  Spine& spine(std::uint64_t owner) {
    if (!spine_) {
      spine_ = std::make_shared<Spine>();
      spineOwner_ = owner;
    } else if (spineOwner_ != owner) {
      spine_ = std::make_shared<Spine>(*spine_);
      spineOwner_ = owner;
    }
    return *spine_;
  }
  Chunk& own(std::size_t c, std::uint64_t owner) {
    auto& chunk = spine(owner)[c];
    if (chunk->owner != owner) {
      auto copy = std::make_shared<Chunk>(*chunk);
      copy->owner = owner;
      chunk = std::move(copy);
    }
    return *chunk;
  }

  std::shared_ptr<Spine> spine_;
  std::uint64_t spineOwner_ = 0;
  std::size_t size_ = 0;
};

}  // namespace conduit
