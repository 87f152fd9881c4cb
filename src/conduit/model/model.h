// Everything that is saved and undone, as one value.
#pragma once

#include <map>
#include <memory>
#include <string>

#include "model/case_set.h"
#include "model/pump_request.h"
#include "model/sizing_setup.h"
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
  std::vector<PumpRequest> pumpRequests{};
  SizingSetup sizing{};
  SharedText costsExtra{};  // keys of the costs that this version does not know, as JSON text, passed on
  /// Set-ups of studies by their key in the file, as JSON text; see studyKeys. What this program does not
  /// work with yet is kept and passed on.
  std::map<std::string, SharedText, std::less<>> studies{};

  /// Memory this model does not share with `other`, roughly, bytes.
  [[nodiscard]] std::size_t bytesApart(const Model& other) const;
};

/// Keys of the file that belong to studies kept as text: "sheet" and so on.
[[nodiscard]] std::span<const std::string_view> studyKeys();

}  // namespace conduit
