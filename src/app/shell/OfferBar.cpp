// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/OfferBar.h"

#include "app/shell/Offers.h"
#include "app/style/Settings.h"
#include "model/SourceFacts.h"
#include "model/Translation.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace tromb {

OfferBar::OfferBar(Document& document, QWidget* parent)
    : QWidget(parent), m_document(document), m_words(new QLabel(this)),
      m_take(new QPushButton(tr("Deliver these"), this)), m_choices(new QGridLayout) {
  setObjectName(QStringLiteral("offerBar"));
  setProperty("bar", true);
  setAttribute(Qt::WA_StyledBackground);
  setAccessibleName(tr("Deliverables that suit the footage"));
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(12, 8, 12, 8);
  rows->setSpacing(4);
  m_words->setWordWrap(true);
  rows->addWidget(m_words);
  auto* line = new QHBoxLayout;
  line->addLayout(m_choices, 1);
  QPushButton* take = m_take;
  take->setProperty("main", true);
  take->setObjectName(QStringLiteral("takeOffer"));
  auto* leave = new QPushButton(tr("Not now"), this);
  line->addWidget(leave);
  line->addWidget(take);
  rows->addLayout(line);
  connect(take, &QPushButton::clicked, this, &OfferBar::take);
  connect(leave, &QPushButton::clicked, this, [this] {
    m_answered = true;
    refresh();
  });
  connect(&document, &Document::reset, this, [this] {
    m_answered = !m_document.project().deliverables.empty() || !m_document.project().sources.empty();
    m_source.clear();
    refresh();
  });
  connect(&document, &Document::sourcesInserted, this, &OfferBar::refresh);
  connect(&document, &Document::sourcesRemoved, this, &OfferBar::refresh);
  connect(&document, &Document::mediaChanged, this, &OfferBar::refresh);
  connect(&document, &Document::deliverablesInserted, this, &OfferBar::refresh);
  refresh();
}

void OfferBar::refresh() {
  // The offer is made from the sharpest footage that came in. The cells of softer footage say that they are soft.
  const Source* first = nullptr;
  int64_t most = 0;
  for (const Source& source : m_document.project().sources)
    if (const auto* media = m_document.media(source.id); media && *media && (*media)->kind == MediaKind::Video) {
      const Size stored = (*media)->video->stored;
      if (int64_t(stored.width) * stored.height <= most) continue;
      most = int64_t(stored.width) * stored.height;
      first = &source;
    }
  if (!m_document.project().deliverables.empty()) m_answered = true;
  const bool asks = first && !m_answered && Settings::offersDeliverables();
  if (asks && !isVisibleTo(parentWidget())) m_take->setFocus(Qt::OtherFocusReason); // it is what comes next
  setVisible(asks);
  if (!first || m_answered || first->id == m_source) return;
  m_source = first->id;
  for (const Offered& each : m_offered) delete each.line;
  m_offered.clear();
  const MediaInfo& media = **m_document.media(first->id);
  m_words->setText(tr("<b>The footage is %1.</b> What is it to be delivered as? Everything can be changed later, "
                      "and nothing is tied to the first clip.")
                       .arg(shortFacts(readingOf(*first, media))));
  for (Offer& offer : offersFor(m_document.project(), media, first->bars, Settings::habits(), inTheWindowsLanguage)) {
    Offered made;
    made.line = new QWidget(this);
    auto* row = new QHBoxLayout(made.line);
    row->setContentsMargins(0, 0, 0, 0);
    const Deliverable& usual = offer.sizes.front();
    made.box = new QCheckBox(QString::fromStdString(usual.name), made.line);
    made.box->setChecked(true);
    row->addWidget(made.box);
    made.size = new QComboBox(made.line);
    made.size->setAccessibleName(tr("Size of %1").arg(made.box->text()));
    for (const size_t size : Offers::order(offer)) made.size->addItem(Offers::meaning(offer, size), int(size));
    made.size->setEnabled(made.size->count() > 1);
    row->addWidget(made.size, 1);
    made.offer = std::move(offer);
    const int place = int(m_offered.size());
    m_choices->addWidget(made.line, place / 2, place % 2);
    m_offered.push_back(std::move(made));
  }
}

void OfferBar::take() {
  m_answered = true;
  std::vector<Deliverable> chosen;
  for (const Offered& each : m_offered) {
    if (!each.box->isChecked()) continue;
    const auto size = size_t(each.size->currentData().toInt());
    Offers::remember(each.offer, size);
    chosen.push_back(each.offer.sizes[size]);
  }
  m_document.addDeliverables(chosen, tr("Add %n deliverables", nullptr, int(chosen.size())));
  refresh();
}

} // namespace tromb
