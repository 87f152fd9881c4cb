// What a combo box offers, changed only where it differs, so that one that stands open stays open.
#pragma once

#include <QComboBox>
#include <vector>

namespace conduit::desktop {

/// Words and data of each choice; `chosen` is the data of the one shown, else the first.
inline void offer(QComboBox& box, const std::vector<std::pair<QString, QVariant>>& choices,
                  const QVariant& chosen) {
  bool same = box.count() == static_cast<int>(choices.size());
  for (int i = 0; same && i < box.count(); ++i) {
    const auto& [words, data] = choices[static_cast<std::size_t>(i)];
    same = box.itemText(i) == words && box.itemData(i) == data;
  }
  if (!same) {
    box.clear();
    for (const auto& [words, data] : choices) box.addItem(words, data);
  }
  if (const int at = std::max(0, box.findData(chosen)); at != box.currentIndex()) box.setCurrentIndex(at);
}

}  // namespace conduit::desktop
