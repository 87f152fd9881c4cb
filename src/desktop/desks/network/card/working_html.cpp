#include "card/working_html.h"

#include "quantity/format.h"

namespace conduit::desktop {

QString workingHtml(const Working& working, const Look& look) {
  auto esc = [](const std::string& s) { return QString::fromStdString(s).toHtmlEscaped(); };
  QString html = QString("<p style='font-size:15px;font-weight:600'>%1</p>").arg(esc(working.title));
  for (const WorkingLine& l : working.lines) {
    html += QString("<p style='margin-top:10px;margin-bottom:0'><b>%1</b> = %2</p>")
                .arg(esc(l.symbol), esc(l.formula));
    html += QString("<p style='margin:2px 0 0 10px;color:%1'>= %2</p>").arg(look.ink2.name(), esc(l.numbers));
    html += QString("<p style='margin:2px 0 0 10px'>= <b>%1</b> %2</p>")
                .arg(esc(digits(l.value, 6, 1e-15)), esc(l.unit));
    if (!l.source.empty())
      html += QString("<p style='margin:1px 0 0 10px;color:%1;font-size:11px'>%2</p>")
                  .arg(look.ink2.name(), esc(l.source));
  }
  if (!working.remark.empty()) html += QString("<p style='margin-top:12px'>%1</p>").arg(esc(working.remark));
  return html;
}

}  // namespace conduit::desktop
