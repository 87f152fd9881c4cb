// What studies keep in a model: by the key of a study in the file its set-up, a value of the study's own. The
// model knows none of them.
//
//   const SizingSetup& asked = model.of<SizingSetup>();
//   model.setups.set(std::move(changed));
//
// A set-up is a type with
//   static constexpr std::string_view study;   // its key in the file
//   bool empty() const;                         // nothing is kept: the file does not have it
//   std::size_t bytes() const;                  // roughly, for undo's memory
//   void follow(const Followed&);               // elements were renamed or went
// and ==. Default made it is what holds where nothing is kept.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "network/network.h"

namespace conduit {

/// What an edit did to the elements that a set-up may speak of.
struct Followed {
  const Network& before;
  const Network& after;
  std::map<std::pair<std::string_view, std::string>, std::string> renamed;  // by kind and old name
  std::vector<Id> gone;  // sorted; also those that are of another kind now
  [[nodiscard]] bool isGone(Id id) const;
  [[nodiscard]] bool any() const { return !renamed.empty() || !gone.empty(); }
};
[[nodiscard]] Followed followed(const Network& before, const Network& after);

class Setups {
 public:
  template <class T>
  [[nodiscard]] const T& get() const {
    static const T none{};
    const auto at = all_.find(T::study);
    return at == all_.end() ? none : static_cast<const Of<T>&>(*at->second).value;
  }
  template <class T>
  void set(T value) {
    if (value.empty()) all_.erase(T::study);
    else all_[T::study] = std::make_shared<const Of<T>>(std::move(value));
  }
  void follow(const Followed& what);
  /// Memory not shared with `other`, roughly, bytes.
  [[nodiscard]] std::size_t bytesApart(const Setups& other) const;
  friend bool operator==(const Setups& a, const Setups& b);

 private:
  struct Any {
    virtual ~Any() = default;
    [[nodiscard]] virtual bool same(const Any& other) const = 0;
    [[nodiscard]] virtual std::size_t bytes() const = 0;
    virtual void follow(const Followed& what, Setups& all) const = 0;
  };
  template <class T>
  struct Of final : Any {
    explicit Of(T v) : value(std::move(v)) {}
    T value;
    [[nodiscard]] bool same(const Any& other) const override {
      return value == static_cast<const Of&>(other).value;  // of one key there is one type
    }
    [[nodiscard]] std::size_t bytes() const override { return value.bytes(); }
    void follow(const Followed& what, Setups& all) const override {
      T next = value;
      next.follow(what);
      if (!(next == value)) all.set(std::move(next));
    }
  };
  std::map<std::string_view, std::shared_ptr<const Any>> all_;
};

}  // namespace conduit
