// Everything about one pump (or would-be pump) that takes solving, worked out beside the window: system
// curves, what its suction has, remedies, candidates. What comes first is shown first.
#pragma once

#include <QObject>
#include <memory>

#include "document/background.h"
#include "document/document.h"
#include "model/pump_request.h"
#include "pump/cavitation.h"
#include "pump/curve_sheet.h"
#include "pump/selection.h"
#include "pump/suction_remedies.h"
#include "pump/supply_curve.h"

namespace conduit::desktop {

/// What is asked for; a snapshot, so that nobody waits for anybody.
struct StudyWork {
  Model model;
  std::uint64_t stamp = 0;
  CaseId in = drawingCase;
  std::vector<CaseId> ticked;  // cases whose curves are drawn besides
  Id place = noId;
  std::vector<Id> together;  // pumps looked at as one; empty: the place alone
  bool growing = false;      // draw-offs grow and shrink together
  SharedSupply shared{};
  Id rest = noId;  // the supply that alone makes up the rest, with the draw-offs as they are
  PumpRequest request{};
  bool candidates = true;
  std::optional<SpeedGoal> hold;  // that its speed is to hold in every case
  std::shared_ptr<const Stock> stock;
  UnitSet units = UnitSet::siWater();
  CaseAnswerPtr answer;  // of the case, where there is one
};

/// What was found so far; handed over anew at each step.
struct StudyResult {
  StudyWork work;
  Network network;  // with a pump at the place
  Id pump = noId;
  bool made = false;  // it stands in for a supply
  Solution base;
  PumpGroup group;
  std::string problem;
  struct Curve {
    CaseId id = drawingCase;
    SystemCurve curve;
  };
  std::vector<Curve> curves;  // the case that is looked at first
  std::optional<SharedCurve> shared;
  CurveSheet sheet;
  TracedCurve groupCurve;  // of several together
  Line npshAvailable;
  std::optional<SuctionBudget> budget;
  std::vector<TriedRemedy> remedies;
  std::vector<SpeedRow> speeds;
  std::vector<VapourMargin> vapour;  // pumps, valves, high points: the nearest of each
  std::optional<Selection> selection;
  bool done = false, stopped = false;
};
using StudyResultPtr = std::shared_ptr<const StudyResult>;

class PumpStudy : public QObject {
  Q_OBJECT
 public:
  explicit PumpStudy(Document& document, QObject* parent = nullptr);
  /// Begins anew; what was going on is left.
  void begin(StudyWork work);
  void stop() { work_.stop(); }
  void leave() { work_.leave(); }
  [[nodiscard]] bool running() const { return work_.running(); }

 signals:
  void found(const StudyResultPtr& result);
  void progress(int done, int of);  // of the candidates

 private:
  Background work_;
};

}  // namespace conduit::desktop
