#include "stock/stock.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>

namespace conduit {
namespace {

std::string squeezed(std::string_view text) {
  std::string out;
  for (char c : text)
    if (c != ' ') out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  if (const auto at = out.find("sch"); at != std::string::npos) out.erase(at, 3);
  return out;
}

template <class Entry>
std::string keyOf(const Entry& e) {
  return squeezed(e.name());
}
template <>
std::string keyOf(const StockItem& e) {
  return squeezed(e.kind) + "/" + squeezed(e.item);
}

template <class Entry>
void lay(std::vector<Entry>& under, const std::vector<Entry>& over) {
  if (over.empty()) return;
  std::map<std::string, std::size_t> at;
  for (std::size_t i = 0; i < under.size(); ++i) at.emplace(keyOf(under[i]), i);
  for (const Entry& e : over) {
    const auto [it, fresh] = at.emplace(keyOf(e), under.size());
    if (fresh) under.push_back(e);
    else under[it->second] = e;
  }
}

}  // namespace

Stock laidOver(const Stock& under, const Stock& over) {
  Stock both = under;
  lay(both.pipes, over.pipes);
  lay(both.fittings, over.fittings);
  lay(both.roughness, over.roughness);
  lay(both.coefficients, over.coefficients);
  lay(both.liquids, over.liquids);
  lay(both.items, over.items);
  return both;
}

double completeTurbulence(double bore_m) {
  const double lg = std::log10(0.0457e-3 / (3.7 * bore_m));
  return 0.25 / (lg * lg);
}

namespace {
// A sweep over take-offs or a day of editing does not grow without end.
constexpr std::size_t takeOffsKept = 200'000;
}  // namespace

TakeOffsRead& TakeOffsRead::operator=(const TakeOffsRead&) {
  forget();
  return *this;
}

TakeOffsRead& TakeOffsRead::operator=(TakeOffsRead&&) noexcept {
  forget();
  return *this;
}

void TakeOffsRead::forget() const {
  const std::lock_guard lock(mutex_);
  read_.clear();
}

std::shared_ptr<const TakeOffRead> TakeOffsRead::find(std::string_view text,
                                                      const std::vector<Fitting>& fittings) const {
  const std::lock_guard lock(mutex_);
  if (fittings.data() != fittings_ || fittings.size() != count_) return nullptr;
  const auto found = read_.find(text);
  return found == read_.end() ? nullptr : found->second;
}

void TakeOffsRead::keep(std::string_view text, const std::vector<Fitting>& fittings,
                        std::shared_ptr<const TakeOffRead> read) const {
  const std::lock_guard lock(mutex_);
  if (fittings.data() != fittings_ || fittings.size() != count_ || read_.size() >= takeOffsKept)
    read_.clear();
  fittings_ = fittings.data(), count_ = fittings.size();
  read_.insert_or_assign(std::string(text), std::move(read));
}

double Fitting::kAt(double bore_m) const {
  if (kInfinite) return *kInfinite * (1 + 0.0254 / bore_m);
  if (ki) return *ki * (1 + kd.value_or(0.0) / std::pow(bore_m * 1000, 0.3));
  return k ? *k : boresLong.value_or(0.0) * completeTurbulence(bore_m);
}

const Fitting* Stock::fitting(std::string_view word) const {
  for (const Fitting& f : fittings)
    if (f.word == word) return &f;
  return nullptr;
}

SizesFound& SizesFound::operator=(const SizesFound&) {
  const std::lock_guard lock(mutex_);
  found_.clear();
  return *this;
}

SizesFound& SizesFound::operator=(SizesFound&&) noexcept {
  const std::lock_guard lock(mutex_);
  found_.clear();
  return *this;
}

namespace {
constexpr std::size_t namesKept = 5000;

bool isCalled(const PipeSize& size, std::string_view name) {  // as name(), without making it
  const std::size_t a = size.standard.size(), b = size.nominal.size(), c = size.schedule.size();
  return name.size() == a + b + c + 2 && name.substr(0, a) == size.standard && name[a] == ' ' &&
         name.substr(a + 1, b) == size.nominal && name[a + 1 + b] == ' ' &&
         name.substr(a + b + 2) == size.schedule;
}
}  // namespace

const PipeSize* SizesFound::find(std::string_view name, const std::vector<PipeSize>& pipes) const {
  std::atomic<std::uint32_t>& guess = guess_[std::hash<std::string_view>()(name) % guesses];
  if (const std::size_t i = guess.load(std::memory_order_relaxed);
      i < pipes.size() && isCalled(pipes[i], name))
    return &pipes[i];
  const std::shared_lock lock(mutex_);
  const auto at = found_.find(name);
  if (at == found_.end() || at->second.index >= pipes.size()) return nullptr;
  const PipeSize& size = pipes[at->second.index];
  if (!isCalled(size, at->second.name)) return nullptr;
  guess.store(static_cast<std::uint32_t>(at->second.index), std::memory_order_relaxed);
  return &size;
}

void SizesFound::keep(std::string_view name, const PipeSize& size, const std::vector<PipeSize>& pipes) const {
  const std::lock_guard lock(mutex_);
  if (found_.size() >= namesKept) found_.clear();
  found_.insert_or_assign(std::string(name),
                          Kept{static_cast<std::size_t>(&size - pipes.data()), size.name()});
}

const PipeSize* Stock::pipe(std::string_view name) const {
  if (const PipeSize* known = sizesFound.find(name, pipes)) return known;
  const std::string wanted = squeezed(name);
  for (const PipeSize& p : pipes)
    if (squeezed(p.name()) == wanted) {
      sizesFound.keep(name, p, pipes);
      return &p;
    }
  return nullptr;
}

const LiquidEntry* Stock::liquid(std::string_view name) const {
  const std::string wanted = squeezed(name);
  for (const LiquidEntry& l : liquids)
    if (squeezed(l.liquid) == wanted) return &l;
  return nullptr;
}

const StockItem* Stock::item(std::string_view kind, std::string_view name) const {
  const std::string wanted = squeezed(name);
  for (const StockItem& i : items)
    if (i.kind == kind && squeezed(i.item) == wanted) return &i;
  return nullptr;
}

}  // namespace conduit
