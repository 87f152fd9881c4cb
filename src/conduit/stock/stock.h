// Catalogue values: pipe sizes, fittings, roughness, liquids, equipment described once. Filled by exchange/
// from the files in stock/, from the engineer's own files, and from what travels inside a model; here they
// are data, with the caches that finding them by name takes.
#pragma once

#include <array>
#include <atomic>
#include <memory>
#include <mutex>
#include <optional>
#include <shared_mutex>
#include <string>
#include <string_view>
#include <unordered_map>
#include <utility>
#include <vector>

namespace conduit {

/// Where an entry comes from; a later one of the same name stands in place of an earlier.
enum class Origin { shipped, own, model };

struct PipeSize {
  std::string standard;  // "ASME B36.10M"
  std::string nominal;   // NPS "4", dn "110"
  std::string schedule;  // "40", "SDR 11", "C40"
  std::string material;
  double outside_m = 0.0, wall_m = 0.0, bore_m = 0.0;
  std::optional<double> mass_kgm, rating_pa, costPerMetre;
  std::string source;
  Origin origin = Origin::shipped;
  [[nodiscard]] std::string name() const {
    return standard + " " + nominal + (schedule.empty() ? "" : " " + schedule);
  }
};

/// A fitting has a fixed K; or an equivalent length in bores whose K is that times the friction factor of
/// complete turbulence in clean steel of its bore (Crane TP-410, 1988); or two coefficients, K = k1/Re +
/// kInfinite (1 + 25.4 mm/D) (Hooper 1981); or three, K = k1/Re + ki (1 + kd/D^0.3), D in mm (Darby 1999).
struct Fitting {
  std::string word;  // as typed in a take-off: "elbow"
  std::string description;
  std::optional<double> k, boresLong, k1, kInfinite, ki, kd;
  std::string source;
  Origin origin = Origin::shipped;
  /// Without the part that falls with the Reynolds number.
  [[nodiscard]] double kAt(double bore_m) const;
  /// By which of these its K is come by.
  [[nodiscard]] std::string_view method() const {
    return kInfinite ? "two coefficients, Hooper 1981"
           : ki      ? "three coefficients, Darby 1999"
           : k       ? "fixed K"
                     : "equivalent length at complete turbulence, Crane TP-410";
  }
  [[nodiscard]] const std::string& name() const { return word; }
};

struct RoughnessEntry {
  std::string material, condition;
  double low_m = 0.0, typical_m = 0.0, high_m = 0.0;
  std::string source;
  Origin origin = Origin::shipped;
  [[nodiscard]] std::string name() const { return material + ", " + condition; }
};

/// Hazen–Williams C of a material in a condition.
struct CoefficientEntry {
  std::string material, condition;
  double low = 0.0, typical = 0.0, high = 0.0;
  std::string source;
  Origin origin = Origin::shipped;
  [[nodiscard]] std::string name() const { return material + ", " + condition; }
};

/// A liquid by few figures: see fluid/stock_liquid.h for what is made of them.
struct LiquidEntry {
  std::string liquid;
  double density_kgm3 = 0.0, densityAt_c = 0.0, expansion_perK = 0.0;
  double viscosity1_m2s = 0.0, at1_c = 0.0, viscosity2_m2s = 0.0, at2_c = 0.0;
  std::optional<double> vapour_pa, vapourAt_c, boilsAt_c, freezesAt_c, critical_pa;
  std::optional<double> waterActivity;  // of a solution: its vapour pressure over that of water
  std::string reid;  // "crude", "gasoline", "naphtha": `vapour_pa` is the Reid vapour pressure of such
  std::string source;
  Origin origin = Origin::shipped;
  [[nodiscard]] const std::string& name() const { return liquid; }
};

struct ItemValues;  // what the texts of an item mean; only those know it who know kinds of equipment

/// Equipment described once: texts for the fields of its kind, used wherever an element names it as its stock
/// item.
struct StockItem {
  std::string kind, item;
  std::vector<std::pair<std::string, std::string>> fields;
  std::string source;
  Origin origin = Origin::shipped;
  std::shared_ptr<const ItemValues> read{};  // its fields, read once (see readItems); null: not yet
  [[nodiscard]] const std::string& name() const { return item; }
};

struct TakeOffRead;  // a take-off and what it means; only those know it who know its grammar
                     // (parts/take_off.h)

/// The take-offs of a network, each read once with the fittings of the stock that holds it. What was read
/// points at those fittings, so a copy of the stock begins with none. Any thread may ask.
class TakeOffsRead {
 public:
  TakeOffsRead() = default;
  TakeOffsRead(const TakeOffsRead&) {}
  TakeOffsRead& operator=(const TakeOffsRead&);
  TakeOffsRead(TakeOffsRead&&) noexcept {}
  TakeOffsRead& operator=(TakeOffsRead&&) noexcept;
  [[nodiscard]] std::shared_ptr<const TakeOffRead> find(std::string_view text,
                                                        const std::vector<Fitting>& fittings) const;
  void keep(std::string_view text, const std::vector<Fitting>& fittings,
            std::shared_ptr<const TakeOffRead> read) const;

 private:
  struct Hash {
    using is_transparent = void;
    std::size_t operator()(std::string_view text) const { return std::hash<std::string_view>()(text); }
  };
  void forget() const;
  mutable std::mutex mutex_;
  mutable std::unordered_map<std::string, std::shared_ptr<const TakeOffRead>, Hash, std::equal_to<>> read_;
  mutable const Fitting* fittings_ = nullptr;  // where those stood that read_ points at, and how many
  mutable std::size_t count_ = 0;
};

/// Sizes by the name that elements give them, each looked for once: a network asks for the same few again and
/// again. Belongs to one stock alone, as above.
class SizesFound {
 public:
  SizesFound() = default;
  SizesFound(const SizesFound&) {}
  SizesFound& operator=(const SizesFound&);
  SizesFound(SizesFound&&) noexcept {}
  SizesFound& operator=(SizesFound&&) noexcept;
  /// Null where it is not known yet, or the sizes have changed since.
  [[nodiscard]] const PipeSize* find(std::string_view name, const std::vector<PipeSize>& pipes) const;
  void keep(std::string_view name, const PipeSize& size, const std::vector<PipeSize>& pipes) const;

 private:
  struct Hash {
    using is_transparent = void;
    std::size_t operator()(std::string_view text) const { return std::hash<std::string_view>()(text); }
  };
  struct Kept {
    std::size_t index;
    std::string name;  // that the size had
  };
  mutable std::shared_mutex mutex_;
  mutable std::unordered_map<std::string, Kept, Hash, std::equal_to<>> found_;
  // Written out as the stock has it, which is nearly always, a name is found without the lock: its size is
  // likely the one that stands in its place here, and told by looking.
  static constexpr std::size_t guesses = 1024;
  mutable std::array<std::atomic<std::uint32_t>, guesses> guess_{};
};

struct Stock {
  std::vector<PipeSize> pipes;
  std::vector<Fitting> fittings;
  std::vector<RoughnessEntry> roughness;
  std::vector<CoefficientEntry> coefficients;
  std::vector<LiquidEntry> liquids;
  std::vector<StockItem> items;
  TakeOffsRead takeOffs{};
  SizesFound sizesFound{};
  [[nodiscard]] const Fitting* fitting(std::string_view word) const;
  /// By its name, blanks and case apart: "ASME B36.10M 4 40", "asme b36.10m 4 sch 40".
  [[nodiscard]] const PipeSize* pipe(std::string_view name) const;
  [[nodiscard]] const LiquidEntry* liquid(std::string_view name) const;
  [[nodiscard]] const StockItem* item(std::string_view kind, std::string_view name) const;
  [[nodiscard]] bool empty() const {
    return pipes.empty() && fittings.empty() && roughness.empty() && coefficients.empty() &&
           liquids.empty() && items.empty();
  }
};

/// `over` laid on `under`: entries of the same name are those of `over`.
[[nodiscard]] Stock laidOver(const Stock& under, const Stock& over);

/// Friction factor of complete turbulence in clean commercial steel, ε = 0.0457 mm (Crane TP-410, 1988, and
/// Moody 1944): f_T = 0.25 / lg²(ε/(3.7 D)).
[[nodiscard]] double completeTurbulence(double bore_m);

}  // namespace conduit
