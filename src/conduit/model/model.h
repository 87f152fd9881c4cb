// Everything that is saved and undone, as one value.
#pragma once

#include <memory>
#include <string>

#include "model/case_set.h"
#include "model/setups.h"
#include "network/network.h"

namespace conduit {

/// A text of any length that versions of a model share.
class SharedText {
 public:
  SharedText() = default;
  SharedText(std::string text) : text_(std::make_shared<const std::string>(std::move(text))) {}
  [[nodiscard]] const std::string& str() const {
    static const std::string none;
    return text_ ? *text_ : none;
  }
  friend bool operator==(const SharedText& a, const SharedText& b) {
    return a.text_ == b.text_ || a.str() == b.str();
  }

 private:
  std::shared_ptr<const std::string> text_;
};

/// A value like the Network in it: a copy shares what does not change.
struct Model {
  Network drawn;
  /// What running costs: hours, tariff, efficiencies of motor and drive (see costFields). Their one home.
  Values costs{};
  CaseSet cases{};
  /// What is kept of studies; see studies/registry.h.
  Setups setups{};
  SharedText costsExtra{};  // keys of the costs that this version does not know, as JSON text, passed on
  /// The set-up of a study.
  template <class T>
  [[nodiscard]] const T& of() const {
    return setups.get<T>();
  }

  /// Memory this model does not share with `other`, roughly, bytes.
  [[nodiscard]] std::size_t bytesApart(const Model& other) const;
};

}  // namespace conduit
