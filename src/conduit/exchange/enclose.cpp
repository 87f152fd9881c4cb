#include "exchange/enclose.h"

#include <set>

#include "fields/entry.h"
#include "fields/keys.h"
#include "parts/take_off.h"

namespace conduit {
namespace {

// Calls back with every entry of the stock that an element uses.
template <class UsePipe, class UseFitting, class UseItem>
void eachUse(const Element& e, const Stock& stock, UsePipe pipe, UseFitting fitting, UseItem item) {
  if (const auto* size = e.text(key::size))
    if (const PipeSize* entry = stock.pipe(*size)) pipe(*entry);
  if (const auto* name = e.text(stockItemKey))
    if (const StockItem* entry = stock.item(e.part->key, *name)) item(*entry);
  for (const Field& f : e.part->fields) {
    if (f.kind != FieldKind::takeOff) continue;
    const auto* text = e.text(f.key);
    const auto taken = text ? takeOffRead(*text, stock) : nullptr;
    if (!taken || !taken->read) continue;
    for (const Piece& p : taken->read->pieces)
      if (p.fitting) fitting(*p.fitting);
  }
}

}  // namespace

Network withUsedStock(const Network& network, const Stock& stock) {
  Stock used;
  std::set<const void*> seen;
  auto add = [&](auto& list, const auto& entry) {
    if (entry.origin == Origin::shipped || !seen.insert(&entry).second) return;
    list.push_back(entry);
    list.back().origin = Origin::model;
  };
  network.each([&](Id, const Element& e) {
    eachUse(
        e, stock, [&](const PipeSize& p) { add(used.pipes, p); },
        [&](const Fitting& f) { add(used.fittings, f); }, [&](const StockItem& i) { add(used.items, i); });
  });
  if (const auto* name = network.job().text("liquid of the stock"))
    if (const LiquidEntry* entry = stock.liquid(*name)) add(used.liquids, *entry);
  if (used.empty()) return network;
  Enclosed enclosed = network.enclosed();
  const std::size_t before = enclosed.stock.pipes.size() + enclosed.stock.fittings.size() +
                             enclosed.stock.items.size() + enclosed.stock.liquids.size();
  enclosed.stock = laidOver(used, enclosed.stock);
  if (enclosed.stock.pipes.size() + enclosed.stock.fittings.size() + enclosed.stock.items.size() +
          enclosed.stock.liquids.size() ==
      before)
    return network;
  Draft draft(network);
  draft.enclose(std::move(enclosed));
  return std::move(draft).finish();
}

StockItem stockItemOf(const Element& element) {
  StockItem item{std::string(element.part->key), element.name, {}, "own", Origin::model};
  for (const Field& f : element.part->fields) {
    const Value* v = element.value(f.key);
    if (v && f.key != stockItemKey && f.key != serviceKey && f.key != key::note)
      item.fields.emplace_back(f.key, writeField(f, *v));
  }
  return item;
}

std::vector<Id> usersOf(const Network& network, const Stock& stock, std::string_view file,
                        std::string_view name) {
  std::vector<Id> users;
  network.each([&](Id id, const Element& e) {
    bool uses = false;
    eachUse(
        e, stock, [&](const PipeSize& p) { uses = uses || (file == "pipes.csv" && p.name() == name); },
        [&](const Fitting& f) { uses = uses || (file == "fittings.csv" && f.word == name); },
        [&](const StockItem& i) { uses = uses || (file == "equipment.csv" && i.item == name); });
    if (uses) users.push_back(id);
  });
  if (file == "liquids.csv")
    if (const auto* liquid = network.job().text("liquid of the stock"); liquid && *liquid == name)
      users.push_back(jobId);
  return users;
}

}  // namespace conduit
