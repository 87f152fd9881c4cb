// Of a pipe's card: what each size of the catalogue would do at the flow there is, and the bore of least
// cost.
#pragma once

#include <QLabel>
#include <QStandardItemModel>

#include "document/document.h"
#include "look/look.h"

namespace conduit::desktop {

/// Names of sizes for a completer, each with velocity and loss beside it.
class SizeHints : public QStandardItemModel {
  Q_OBJECT
 public:
  static constexpr int nameRole = Qt::UserRole;
  explicit SizeHints(const Stock& stock, QObject* parent = nullptr);
  /// At the flow that passes the pipe; without an answer the names alone.
  void refresh(const SolvedPtr& solved, Id pipe, const UnitSet& units);

 private:
  std::vector<PipeSize> sizes_;
};

/// "Economic bore 105.5 mm, between 4 and 5": with its formula once it is asked for.
class EconomicWords : public QLabel {
  Q_OBJECT
 public:
  explicit EconomicWords(Document& document, QWidget* parent = nullptr);
  void display(Id pipe, const Look& look);

 private:
  Document& doc_;
  Look look_;
  Id pipe_ = noId;
  bool open_ = false;
};

}  // namespace conduit::desktop
