// A long list worked out on all processors and written in its order: the same bytes whatever the number of
// threads.
#pragma once

#include <algorithm>
#include <exception>
#include <optional>
#include <ostream>
#include <string>
#include <vector>

#include "jobs/pool.h"

namespace conduit {

/// `work(begin, end)` for parts of 0 … count, on as many threads as there are processors; results in order of
/// their parts. An exception of any part comes out here.
template <class Work>
[[nodiscard]] auto byParts(std::size_t count, Work work) {
  using Result = decltype(work(std::size_t{0}, count));
  const std::size_t parts = std::clamp<std::size_t>(lanes({}), 1, 1 + count / 512);
  std::vector<std::optional<Result>> done(parts);
  std::vector<std::exception_ptr> thrown(parts);
  jobs::spread(parts, {}, [&](std::size_t part, std::size_t) {
    try {
      done[part].emplace(work(count * part / parts, count * (part + 1) / parts));
    } catch (...) {
      thrown[part] = std::current_exception();
    }
  });
  std::vector<Result> results;
  for (std::size_t part = 0; part < parts; ++part) {
    if (thrown[part]) std::rethrow_exception(thrown[part]);
    results.push_back(std::move(*done[part]));
  }
  return results;
}

/// The texts that `text(i, into)` appends for each of 0 … count, written in order and in batches, so that a
/// report of a million entries takes little room.
template <class Text>
void writeByParts(std::ostream& out, std::size_t count, Text text) {
  constexpr std::size_t batch = 1 << 12;
  for (std::size_t begin = 0; begin < count; begin += batch)
    for (const std::string& part :
         byParts(std::min(batch, count - begin), [&](std::size_t from, std::size_t to) {
           std::string written;
           for (std::size_t i = from; i < to; ++i) text(begin + i, written);
           return written;
         }))
      out.write(part.data(), static_cast<std::streamsize>(part.size()));
}

}  // namespace conduit
