// SPDX-License-Identifier: GPL-3.0-or-later
#include "sample/SampleStore.h"

#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>

namespace tromb {
namespace {

using StoredJson = nlohmann::json;
constexpr int64_t kKeptBytes = 4'000'000;

SampleReport readReport(const StoredJson& json, const Encoding& resolved) {
  SampleReport report;
  std::vector<SampleRung> rungs;
  for (const StoredJson& each : json.at("rungs")) {
    SampleRung rung;
    rung.encoding = resolved;
    if (*resolved.rateControl == RateControl::ConstantQuality)
      rung.encoding.crf = each.at("crf").get<double>();
    else if (*resolved.rateControl != RateControl::Settled)
      rung.encoding.bitRate = each.at("bitRate").get<int64_t>();
    rung.fileBytes = each.at("fileBytes").get<int64_t>();
    rung.ssim = each.at("ssim").get<double>();
    rung.psnr = each.at("psnr").is_null() ? std::numeric_limits<double>::infinity() : each.at("psnr").get<double>();
    const bool sensible = rung.fileBytes > 0 && rung.ssim >= -1 && rung.ssim <= 1 && rung.encoding.bitRate >= 0;
    if (!sensible) throw std::range_error("not a sample");
    rungs.push_back(std::move(rung));
  }
  addRungs(report.rungs, rungs);
  return report;
}

} // namespace

SampleStore::SampleStore(std::string folder) : m_folder(std::move(folder), kKeptBytes) {}

std::optional<SampleReport> SampleStore::find(const std::string& key, const Encoding& resolved) const {
  const auto text = m_folder.find(key);
  if (!text) return {};
  try {
    SampleReport report = readReport(StoredJson::parse(*text), resolved);
    if (!report.rungs.empty()) return report;
  } catch (const std::exception&) {
    return {}; // damaged: it is made again
  }
  return {};
}

void SampleStore::keep(const std::string& key, const SampleReport& report) const {
  StoredJson json{{"rungs", StoredJson::array()}};
  for (const SampleRung& rung : report.rungs) {
    StoredJson each{{"fileBytes", rung.fileBytes}, {"ssim", rung.ssim}, {"bitRate", rung.encoding.bitRate}};
    each["psnr"] = std::isfinite(rung.psnr) ? StoredJson(rung.psnr) : StoredJson();
    if (rung.encoding.crf) each["crf"] = *rung.encoding.crf;
    json["rungs"].push_back(std::move(each));
  }
  m_folder.keep(key, json.dump());
}

} // namespace tromb
