#include "card/size_hints.h"

#include "look/words.h"
#include "model/costs.h"
#include "network/setting.h"
#include "quantity/format.h"
#include "sizing/one_line.h"

namespace conduit::desktop {

SizeHints::SizeHints(const Stock& stock, QObject* parent) : QStandardItemModel(parent), sizes_(stock.pipes) {
  for (const PipeSize& p : sizes_) {
    auto* item = new QStandardItem(text(p.name()));
    item->setData(text(p.name()), nameRole);
    appendRow(item);
  }
}

void SizeHints::refresh(const SolvedPtr& solved, Id pipe, const UnitSet& units) {
  const Element* e = solved && solved->usable() ? solved->network.find(pipe) : nullptr;
  if (e && !e->part->line) return;  // of a card that is about to go
  const auto flow = e ? solved->solution.branch(pipe, 0).flow_m3s : std::nullopt;
  for (std::size_t i = 0; i < sizes_.size(); ++i) {
    QString words = text(sizes_[i].name());
    if (flow && std::abs(*flow) > 1e-9)
      if (const auto at = sizeAtFlow(*e, solved->solution.setting, sizes_[i], *flow))
        words += QString("   %1, %2 m per 100 m")
                     .arg(text(withUnit(at->velocity_ms, Measure::velocity, units, 3)),
                          text(digits(at->gradient * 100, 3)));
    item(static_cast<int>(i))->setText(words);
  }
}

EconomicWords::EconomicWords(Document& document, QWidget* parent) : QLabel(parent), doc_(document) {
  setObjectName("economic");
  setWordWrap(true);
  setTextFormat(Qt::RichText);
  setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  connect(
      this, &QLabel::linkActivated, this,
      [this] {
        open_ = !open_;
        display(pipe_, look_);
      },
      Qt::QueuedConnection);
}

void EconomicWords::display(Id pipe, const Look& look) {
  if (pipe != pipe_) open_ = false;
  pipe_ = pipe, look_ = look;
  const SolvedPtr& solved = doc_.solved();
  const Element* e = solved && solved->usable() ? solved->network.find(pipe) : nullptr;
  // Where no money is given there is nothing to weigh.
  const bool any = e && e->part->line && costOf(doc_.model().costs, costs::tariff).value_or(0.0) > 0;
  setVisible(any);
  if (!any) return;
  const EconomicHere here =
      economicAt(doc_.model(), solved->id, solved->network, solved->solution, pipe, *doc_.stock());
  const auto quiet = [&](const QString& words) {
    return QString("<span style='color:%1'>%2</span>").arg(look_.ink2.name(), words);
  };
  if (!here.bore) {
    setText(quiet(tr("No economic bore: %1").arg(desktop::text(here.why).toHtmlEscaped())));
    return;
  }
  const EconomicBore& b = *here.bore;
  QString words = quiet(tr("Economic bore at this flow")) + " <b>" +
                  desktop::text(withUnit(b.bore_m, Measure::bore, doc_.units(), 4)) + "</b>";
  if (b.below || b.above)
    words += quiet(tr(", between %1 and %2")
                       .arg(b.below ? desktop::text(b.below->nominal) : tr("none"),
                            b.above ? desktop::text(b.above->nominal) : tr("none")));
  words += QString(" <a href='how' style='color:%1'>%2</a>")
               .arg(look_.water.name(), open_ ? tr("hide") : tr("working"));
  if (open_)
    words +=
        "<br>" +
        quiet(QString::fromUtf8("D = (5 B/(m a))<sup>1/(m+5)</sup> = (5·%1/(%2·%3))<sup>1/(%2+5)</sup> m<br>")
                  .arg(desktop::text(digits(b.b, 4)), desktop::text(digits(b.m, 4)),
                       desktop::text(digits(b.a * here.upkeepFactor, 4))) +
              tr("installed cost per metre a Dᵐ (a incl. maintenance); pumping cost B/D⁵, B = 8 f ρ Q³/(π² "
                 "η) · tariff · hours · present-value factor, f %1, η %2 %")
                  .arg(desktop::text(digits(b.friction, 3)), desktop::text(digits(b.efficiency * 100, 3))));
  setText(words);
}

}  // namespace conduit::desktop
