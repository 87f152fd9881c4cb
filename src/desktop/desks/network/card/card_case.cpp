// What the card says while a case is the current one: whose values these are, and what they differ from.
#include <fmt/format.h>

#include "card/card.h"
#include "fields/entry.h"
#include "look/words.h"

namespace conduit::desktop {

// Under the name: what is typed here is of this case alone.
void Card::makeCaseLine() {
  const auto ids = shown();
  const Case& c = doc_.caseNow();
  std::size_t differing = 0;
  for (const Difference& d : c.differs.all())
    if (std::find(ids.begin(), ids.end(), d.element) != ids.end()) ++differing;
  const QString name = QString::fromStdString(c.name).toHtmlEscaped(), water = look_.water.name();
  QString words = QString("<b>%1</b>").arg(tr("in %1 only").arg(name));
  if (differing > 0) {
    words +=
        "&nbsp;&nbsp;" + (differing == 1 ? tr("1 field differs") : tr("%1 fields differ").arg(differing));
    words +=
        QString(
            "<br><a href='all' style='color:%1'>%2</a>&nbsp;&nbsp; <a href='inherit' style='color:%1'>%3</a>")
            .arg(water, tr("apply to all cases"), tr("reset"));
  }
  auto* label = new QLabel(words);
  label->setObjectName("card.case");
  label->setAccessibleName(tr("Values typed here apply to case %1").arg(QString::fromStdString(c.name)));
  label->setToolTip(tr(
      "Field values typed here apply to this case only; drawing, deleting and renaming apply to all cases"));
  label->setTextFormat(Qt::RichText);
  label->setWordWrap(true);
  label->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  label->setStyleSheet(
      QString("border: 0px solid %1; border-left-width: 3px; padding: 1px 0px 1px 8px;").arg(water));
  connect(
      label, &QLabel::linkActivated, this,
      [this, ids](const QString& link) {
        EditedModel edited{{}, doc_.model()};
        for (const Id id : ids) {
          if (link == "all") {
            if (auto given = giveToAll(edited.model, doc_.currentCase(), id)) edited = std::move(*given);
            continue;
          }
          for (const Difference& d : doc_.caseNow().differs.all())
            if (d.element == id)
              if (auto done = inherit(edited.model, doc_.currentCase(), {&id, 1}, d.key, d.ofOutcome()))
                edited = std::move(*done);
        }
        if (!edited.name.empty()) doc_.takeModel(std::move(edited));
      },
      Qt::QueuedConnection);
  rows_->addWidget(label);
}

// The field or given outcome as its parent has it, in words.
std::string Card::differsAs(const Element& e, Id id, std::string_view key, bool outcome) const {
  const Element* was = doc_.parentNetwork().find(id);
  if (!was || was->part != e.part) return {};
  if (outcome) {
    const Given* given = was->values.goal(key);
    return given ? given->typed : "found";
  }
  const Field& f = *findField(*e.part, key);
  if (was->values.released(key)) return "found";
  const Value* value = was->value(key);
  if (value)
    return f.kind == FieldKind::table ? fmt::format("{} rows", std::get<Rows>(*value).size())
                                      : sayField(f, *value);
  if (f.kind == FieldKind::flag) return flagOf(was->values, f) ? "yes" : "no";
  if (f.kind == FieldKind::choice) return spoken(choiceOf(was->values, f));
  return "not given";
}

void Card::addDiffers(const Field* field, const Outcome* outcome) {
  const Id id = shown().front();
  const std::string_view key = field ? field->key : outcome->key;
  const Case* parent = doc_.model().cases.find(doc_.caseNow().parent);
  const std::string was = differsAs(doc_.network().at(id), id, key, outcome != nullptr);
  auto* label = new QLabel(
      QString(
          "%1 &nbsp;<a href='inherit' style='color:%2'>%3</a>&nbsp; <a href='all' style='color:%2'>%4</a>")
          .arg(tr("%1 in %2")
                   .arg(QString::fromStdString(was).toHtmlEscaped(),
                        QString::fromStdString(parent ? parent->name : "?").toHtmlEscaped()),
               look_.water.name(), tr("reset"), tr("all cases")));
  label->setObjectName("differs." + text(key));
  label->setAccessibleName(tr("%1 differs in this case").arg(sentence(key)));
  label->setFont(face(11));
  label->setWordWrap(true);
  label->setTextFormat(Qt::RichText);
  label->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  label->setStyleSheet(
      QString(
          "color: %1; border: 0px solid %2; border-left-width: 3px; margin-left: 20px; padding-left: 6px;")
          .arg(look_.ink2.name(), look_.water.name()));
  connect(
      label, &QLabel::linkActivated, this,
      [this, id, key, given = outcome != nullptr](const QString& link) {
        doc_.takeModel(link == "all" ? giveToAll(doc_.model(), doc_.currentCase(), id, key, given)
                                     : inherit(doc_.model(), doc_.currentCase(), {&id, 1}, key, given));
      },
      Qt::QueuedConnection);
  rows_->addWidget(label);
}

}  // namespace conduit::desktop
