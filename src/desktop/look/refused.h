// A field whose text was not taken: it keeps it, is marked, and says why.
#pragma once

#include <QLineEdit>
#include <QStyle>

namespace conduit::desktop {

/// `why` empty: it was taken, and `help` stands as its tip.
inline void markRefused(QLineEdit& edit, const QString& why, const QString& help = {}) {
  edit.setProperty("refused", !why.isEmpty());
  edit.setToolTip(why.isEmpty() ? help : why);
  edit.style()->unpolish(&edit);
  edit.style()->polish(&edit);
}

}  // namespace conduit::desktop
