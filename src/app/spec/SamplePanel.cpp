// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/SamplePanel.h"

#include "app/spec/SampleDialog.h"
#include "app/spec/SpecLineRow.h"
#include "app/style/ElidedLabel.h"
#include "app/style/Theme.h"
#include "model/Translation.h"
#include "project/Choices.h"
#include "project/Timing.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QLocale>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

/// The bytes of "100 MB", or what a line sends in "30 s".
Result<int64_t> bytesOf(const QString& text, int64_t lineSpeed) {
  QString number = text.trimmed();
  if (number.endsWith(QLatin1Char('s')) && number.chopped(1).trimmed().size() > 0) {
    const auto seconds = Rational::parseDecimal(number.chopped(1).trimmed().toStdString());
    if (seconds && *seconds > Rational(0))
      return Rational::nearestProduct(*seconds, Rational(lineSpeed, 8)); // 8 bits a byte
  }
  auto bytes = parseBytes(number.toStdString());
  if (!bytes) bytes.error().hint = say("Write a size, as 100 MB, or a time to send it in, as 30 s");
  return bytes;
}

/// On the scale of Knee::setting.
double settingOf(const Encoding& e) {
  return *e.rateControl == RateControl::ConstantQuality ? *e.crf : double(e.bitRate);
}

/// An encoding at the knee of its own curve.
Encoding atKnee(Encoding e, const Knee& knee) {
  constexpr double kHalf = 0.5;                               // finer steps of quality are not told apart
  const int64_t step = knee.setting < 1e6 ? 10'000 : 100'000; // so that it is what is read on the button
  if (*e.rateControl == RateControl::ConstantQuality)
    e.crf = e.info().quality.whole ? std::round(knee.setting) : std::round(knee.setting / kHalf) * kHalf;
  else
    e.bitRate = std::max<int64_t>(1, std::llround(knee.setting / double(step))) * step;
  return e;
}

QString decibelsSaid(double psnr) {
  return std::isfinite(psnr) ? SamplePanel::tr("%1 dB").arg(QLocale().toString(psnr, 'f', 1))
                             : SamplePanel::tr("nothing is lost");
}

} // namespace

SamplePanel::SamplePanel(Spec& spec, SampleService& samples, QWidget* parent)
    : QWidget(parent), m_spec(spec), m_samples(samples), m_begin(new QPushButton(this)),
      m_cancel(new QPushButton(tr("Cancel"), this)), m_progress(new QProgressBar(this)), m_words(new ElidedLabel(this)),
      m_curve(new SampleCurve(this)), m_knee(new QPushButton(this)),
      m_closer(new QPushButton(tr("Look closer …"), this)), m_size(new QLineEdit(this)), m_fit(new QLabel(this)) {
  setAccessibleName(tr("Sample encode"));
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(3);
  auto* head = new QLabel(tr("Measured by a sample"), this);
  head->setProperty("rank", "head");
  for (QPushButton* each : {m_begin, m_cancel, m_knee, m_closer}) each->setProperty("small", true);
  m_begin->setAccessibleName(tr("Encode a sample"));
  m_begin->setToolTip(
      tr("Encodes the hardest seconds of the running order and some typical ones, at this setting and at "
         "some round it, and compares them with the pictures that went in"));
  m_progress->setTextVisible(false);
  m_progress->setMaximum(1000);
  m_progress->setFixedHeight(6);
  m_progress->setAccessibleName(tr("How far the sample is"));
  auto* top = new QHBoxLayout;
  top->addWidget(head);
  top->addWidget(m_progress, 1);
  top->addStretch(0);
  top->addWidget(m_closer);
  top->addWidget(m_begin);
  top->addWidget(m_cancel);
  rows->addLayout(top);
  rows->addWidget(m_curve);
  auto* told = new QHBoxLayout;
  told->addWidget(m_words, 1);
  told->addWidget(m_knee);
  rows->addLayout(told);
  auto* fit = new QHBoxLayout;
  auto* label = new QLabel(tr("File of at most"), this);
  label->setBuddy(m_size);
  m_size->setPlaceholderText(tr("100 MB, or 30 s"));
  m_size->setAccessibleName(tr("The file is to have at most"));
  m_size->setToolTip(tr("A size, as 100 MB, or a time to send it in, as 30 s. Return sets the bit rate."));
  m_size->setMaximumWidth(fontMetrics().horizontalAdvance(QLatin1Char('M')) * 11);
  m_fit->setWordWrap(true);
  fit->addWidget(label);
  fit->addWidget(m_size);
  fit->addWidget(m_fit, 1);
  fit->addStretch(0);
  rows->addLayout(fit);
  connect(m_begin, &QPushButton::clicked, this, [this] {
    if (const Deliverable* d = m_spec.current()) m_samples.begin(d->id);
  });
  connect(m_cancel, &QPushButton::clicked, this, [this] {
    m_samples.cancel();
    m_begin->setFocus();
  });
  connect(m_knee, &QPushButton::clicked, this, &SamplePanel::takeKnee);
  connect(m_closer, &QPushButton::clicked, this, &SamplePanel::lookCloser);
  connect(m_size, &QLineEdit::returnPressed, this, &SamplePanel::fitSize);
  connect(m_size, &QLineEdit::textEdited, m_fit, &QLabel::clear);
  connect(&m_samples, &SampleService::progressed, this, &SamplePanel::showProgress);
}

void SamplePanel::showProgress() {
  constexpr double kWhole = 1000;
  m_progress->setValue(int(m_samples.fraction() * kWhole));
}

void SamplePanel::refresh() {
  const Deliverable* d = m_spec.current();
  const bool can = d && d->encoding.hasPicture() && !m_spec.document().project().shots.empty();
  setVisible(can);
  if (!can) return;
  if (m_fitted != d->id) m_fit->clear(); // it was said of another
  const SampleReport* report = m_samples.report(*d);
  const auto point = m_samples.point(*d);
  const bool mine = m_samples.busy() && m_samples.subject() == d->id;
  m_begin->setText(report ? tr("Encode again") : tr("Encode a sample"));
  m_begin->setVisible(!mine);
  m_begin->setEnabled(!m_samples.busy());
  m_cancel->setVisible(mine);
  m_progress->setVisible(mine);
  showProgress();
  m_closer->setVisible(report && report->picture && report->rungs.front().picture);
  m_curve->setVisible(report && report->rungs.size() > 1);
  const auto knee = report ? kneeOf(report->rungs) : std::nullopt;
  if (report) m_curve->show(report->rungs, point, knee);
  const Encoding e = resolvedEncoding(*d);
  QString words;
  const QString fault = mine ? QString() : m_samples.fault(d->id);
  if (!fault.isEmpty())
    words = fault;
  else if (mine)
    words = tr("The hardest seconds are encoded …");
  else if (!report)
    words = tr("How large the file will be, and what it looks like where it is hardest");
  else if (!point)
    words = tr("%1 lies beyond what was encoded").arg(settingSaid(e));
  else
    words = tr("%1: %2 · likeness (SSIM) %3 · %4")
                .arg(settingSaid(e), QString::fromStdString(bytesText(point->fileBytes)),
                     QLocale().toString(point->ssim, 'f', 3), decibelsSaid(point->psnr));
  constexpr double kSame = 1e-3; // of a setting
  if (knee && point && !mine && !knee->within && fault.isEmpty())
    words += std::abs(knee->setting / settingOf(report->rungs.front().encoding) - 1) < kSame
                 ? tr(" · fewer bits would do")
                 : tr(" · more bits would help");
  m_words->setText(words);
  m_knee->setVisible(knee && knee->within);
  if (knee && knee->within) {
    m_knee->setText(tr("Use %1").arg(settingSaid(atKnee(e, *knee))));
    m_knee->setToolTip(
        tr("From there on, more bytes hardly help: %1").arg(QString::fromStdString(bytesText(knee->fileBytes))));
  }
  m_size->setEnabled(e.info().takes(RateControl::Variable));
}

void SamplePanel::takeKnee() {
  const Deliverable* d = m_spec.current();
  const SampleReport* report = d ? m_samples.report(*d) : nullptr;
  const auto knee = report ? kneeOf(report->rungs) : std::nullopt;
  if (!knee) return;
  const std::string id = d->id; // a curve is that of one deliverable, whichever others are chosen
  const Encoding there = atKnee(resolvedEncoding(*d), *knee);
  m_spec.change(tr("Take over where more hardly helps"), [&](Deliverable& each) {
    if (each.id != id) return;
    if (*there.rateControl == RateControl::ConstantQuality)
      each.encoding.crf = there.crf;
    else
      chooseBitRate(each, there.bitRate);
    makeEncodable(each);
  });
}

void SamplePanel::fitSize() {
  const auto bytes = bytesOf(m_size->text(), m_spec.grounds().lineSpeed);
  const Project& project = m_spec.document().project();
  const Footage& footage = m_spec.document().footage();
  const auto lengthIn = [&](const Deliverable& d) { return durationIn(project, footage, d); };
  const bool sound = hasSound(project, footage);
  Deliverable fitting = *m_spec.current();
  const Status done =
      bytes ? chooseFileBytes(fitting, *bytes, lengthIn(fitting), sound) : Status(tl::unexpected(bytes.error()));
  m_fitted = fitting.id;
  const QString rate = QString::fromStdString(bitRateText(fitting.encoding.bitRate));
  m_fit->setText(!done ? said(done.error()) : fitting.encoding.passes == 2 ? tr("%1, in two passes").arg(rate) : rate);
  colourWords(m_fit, done ? Theme::current().ink : standingColour(Standing::Broken));
  if (!done) return;
  m_spec.change(tr("Keep within %1").arg(QString::fromStdString(bytesText(*bytes))), [&](Deliverable& each) {
    (void)chooseFileBytes(each, *bytes, lengthIn(each), sound); // others stay as they are where it cannot be
  });
}

void SamplePanel::lookCloser() {
  const Deliverable* d = m_spec.current();
  const SampleReport* report = d ? m_samples.report(*d) : nullptr;
  if (report) SampleDialog(*report, resolvedEncoding(*d), this).exec();
}

} // namespace tromb
