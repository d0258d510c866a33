// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Calming.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <glpk.h>
#include <memory>

namespace tromb {
namespace {

constexpr double kKnotsASecond = 10;
constexpr int kMostKnots = 120;  ///< the programme takes more than twice as long for twice as many
constexpr double kMargin = 0.06; ///< of a window's reach, that the subject keeps from its edge
// What one picture of way, of change of speed and so on costs: as in the paper, for seconds instead of frames.
constexpr double kSpeedCost = 1;
constexpr double kForceCost = 0.0033;
constexpr double kJerkCost = 0.05;
constexpr double kAwayCost = 0.02;    ///< a picture off the subject for a second: of two calm paths, the nearer one
constexpr double kLostCost = 1000;    ///< a picture out of bounds
constexpr double kNearEnough = 0.008; ///< that the keys' way may lie off the path; less than the margin

/// One axis: where the subject is, and where its place may lie.
struct Bounds {
  double at = 0;
  double least = 0;
  double most = 1;
};

/// `before` and `after`: how far the window reaches from the wanted place.
Bounds boundsOf(double centre, double length, double before, double after, double strength) {
  const double margin = kMargin * (before + after);
  Bounds b{centre, centre + length / 2 - after + margin, centre - length / 2 + before - margin};
  if (b.least > b.most)
    b.least = b.most = (b.least + b.most) / 2; // the subject is larger than the window, so its middle is shown
  b.least = centre + (b.least - centre) * strength;
  b.most = centre + (b.most - centre) * strength;
  // Beyond these limits the picture's edge stops the window, so the path need not go there.
  const double first = before;
  const double last = 1 - after;
  if (first <= last) {
    if (b.least < first) b.most = std::max(b.most, first);
    if (b.most > last) b.least = std::min(b.least, last);
    b.at = std::clamp(b.at, first, last);
  }
  b.least = std::clamp(b.least, 0.0, 1.0);
  b.most = std::clamp(b.most, 0.0, 1.0);
  return b;
}

/// The solver keeps an environment for every thread that has used it; one that is not given back outlives its thread.
struct FreeEnvironment {
  void operator()(glp_prob* problem) const {
    glp_delete_prob(problem);
    glp_free_env();
  }
};

/// The linear programme of one axis, `step` seconds a knot. Empty when the solver gives up.
class AxisProgramme {
public:
  AxisProgramme(const std::vector<Bounds>& knots, double step, const CalmOptions& options, bool limited)
      : m_problem(glp_create_prob()), m_count(int(knots.size())) {
    glp_set_obj_dir(m_problem.get(), GLP_MIN);
    m_first = glp_add_cols(m_problem.get(), m_count);
    for (int i = 0; i < m_count; ++i) glp_set_col_bnds(m_problem.get(), m_first + i, GLP_DB, 0, 1);
    static constexpr std::array<std::array<double, 4>, 4> kDifferences{
        {{1, 0, 0, 0}, {-1, 1, 0, 0}, {1, -2, 1, 0}, {-1, 3, -3, 1}}};
    const double costs[] = {0, kSpeedCost, kForceCost, kJerkCost};
    const double most[] = {0, limited ? options.fastest : 0, limited ? options.hardest : 0, 0};
    for (int order = 1; order <= 3; ++order) {
      const double scale = std::pow(step, order);
      for (int i = 0; i + order < m_count; ++i)
        absolute(i, kDifferences[size_t(order)], order + 1, 0, costs[order] * step / scale, most[order] * scale);
    }
    for (int i = 0; i < m_count; ++i) {
      const Bounds& b = knots[size_t(i)];
      absolute(i, kDifferences[0], 1, b.at, kAwayCost * step, 0);
      bound(i, b.least, 1);
      bound(i, b.most, -1);
    }
  }

  std::vector<double> solve() {
    glp_load_matrix(m_problem.get(), int(m_values.size()) - 1, m_rows.data(), m_columns.data(), m_values.data());
    glp_smcp how;
    glp_init_smcp(&how);
    how.msg_lev = GLP_MSG_OFF;
    how.presolve = GLP_ON;
    how.tm_lim = 20'000;
    if (glp_simplex(m_problem.get(), &how) != 0 || glp_get_status(m_problem.get()) != GLP_OPT) return {};
    std::vector<double> path;
    for (int i = 0; i < m_count; ++i) path.push_back(glp_get_col_prim(m_problem.get(), m_first + i));
    return path;
  }

private:
  void entry(int row, int column, double value) {
    m_rows.push_back(row);
    m_columns.push_back(column);
    m_values.push_back(value);
  }
  int column(double cost, double most) {
    const int made = glp_add_cols(m_problem.get(), 1);
    glp_set_col_bnds(m_problem.get(), made, most > 0 ? GLP_DB : GLP_LO, 0, most);
    glp_set_obj_coef(m_problem.get(), made, cost);
    return made;
  }
  /// Adds cost × |Σ factors · path − target|, the size of which stays below `most` (0: free).
  void absolute(int from, const std::array<double, 4>& factors, int count, double target, double cost, double most) {
    const int row = glp_add_rows(m_problem.get(), 1);
    glp_set_row_bnds(m_problem.get(), row, GLP_FX, target, target);
    for (int k = 0; k < count; ++k) entry(row, m_first + from + k, factors[size_t(k)]);
    entry(row, column(cost, most), -1);
    entry(row, column(cost, most), 1);
  }
  /// sign × path + slack ≥ sign × limit, the slack dear.
  void bound(int at, double limit, double sign) {
    const int row = glp_add_rows(m_problem.get(), 1);
    glp_set_row_bnds(m_problem.get(), row, GLP_LO, sign * limit, 0);
    entry(row, m_first + at, sign);
    entry(row, column(kLostCost, 0), 1);
  }

  std::unique_ptr<glp_prob, FreeEnvironment> m_problem;
  int m_count;
  int m_first = 1;
  std::vector<int> m_rows{0}, m_columns{0}; // the solver counts from 1
  std::vector<double> m_values{0};
};

bool holds(const std::vector<double>& path, const std::vector<Bounds>& knots) {
  for (size_t i = 0; i < path.size(); ++i)
    if (path[i] < knots[i].least - 1e-4 || path[i] > knots[i].most + 1e-4) return false;
  return true;
}

std::vector<double> calmedAxis(const std::vector<Bounds>& knots, double step, const CalmOptions& options) {
  std::vector<double> path = AxisProgramme(knots, step, options, true).solve();
  if (path.empty() || !holds(path, knots)) path = AxisProgramme(knots, step, options, false).solve();
  if (path.empty()) // the subject's own path is always possible
    for (const Bounds& b : knots) path.push_back(std::clamp(b.at, b.least, b.most));
  return path;
}

} // namespace

Reach lesser(const Reach& a, const Reach& b) {
  return {std::min(a.left, b.left), std::min(a.right, b.right), std::min(a.up, b.up), std::min(a.down, b.down)};
}

Reach reachOf(const PictureShape& shape, Size canvas, const Framing& framing, const Subjects& subjects, size_t subject,
              double from, double to) {
  Reach reach;
  if (subject >= subjects.size() || subject >= framing.windows.size() || !framing.windows[subject].follows)
    return reach;
  const SizeF picture = shape.picture();
  const PixelRect rect = canvasShares(framing, canvas)[subject];
  const SizeF share{double(rect.width), double(rect.height)};
  const Window& window = framing.windows[subject];
  std::vector<double> times{from, to};
  for (const MoveKey& key : window.move) times.push_back(std::clamp(key.time.toDouble(), from, to));
  for (const double time : times) {
    const RectF at = resolveWindow(picture, share, windowAtTime(picture, share, window, &subjects[subject], time));
    const double across = at.width / picture.width;
    const double down = at.height / picture.height;
    const Subject& s = subjects[subject];
    reach = lesser(reach, {s.atX * across, (1 - s.atX) * across, s.atY * down, (1 - s.atY) * down});
  }
  return reach;
}

Move calmMove(const Track& track, const FrameClock& clock, const Reach& reach, const CalmOptions& options) {
  if (track.points.empty()) return {};
  const auto& points = track.points;
  const auto count = points.size();
  const auto time = [&](size_t i) { return clock.timeOf(points[i].frame); };
  const double length = (time(count - 1) - time(0)).toDouble();
  const double strength = std::clamp(options.strength, 0.0, 1.0);
  std::array<std::vector<Bounds>, 2> bounds; // by frame
  for (const TrackPoint& p : points) {
    bounds[0].push_back(boundsOf(p.x(), p.box.width, reach.left, reach.right, strength));
    bounds[1].push_back(boundsOf(p.y(), p.box.height, reach.up, reach.down, strength));
  }
  const auto keyAt = [&](size_t frame, double x, double y) {
    return MoveKey{time(frame), std::clamp(x, 0.0, 1.0), std::clamp(y, 0.0, 1.0), 1, Ease::Smooth, {}};
  };

  // Knots at whole frames; bounds of all frames up to the neighbouring knots count, so that they hold between too.
  const auto wanted = size_t(std::clamp(length * kKnotsASecond, 1.0, double(kMostKnots)));
  std::vector<size_t> knots;
  for (size_t k = 0; k <= wanted; ++k) {
    const size_t frame = k * (count - 1) / wanted;
    if (knots.empty() || frame > knots.back()) knots.push_back(frame);
  }
  if (knots.size() < 2) return {keyAt(0, bounds[0][0].at, bounds[1][0].at)};
  std::array<std::vector<double>, 2> path; // by knot
  for (size_t axis = 0; axis < 2; ++axis) {
    std::vector<Bounds> at;
    for (size_t k = 0; k < knots.size(); ++k) {
      Bounds b = bounds[axis][knots[k]];
      const size_t from = k > 0 ? knots[k - 1] + 1 : 0;
      const size_t to = k + 1 < knots.size() ? knots[k + 1] - 1 : count - 1;
      Bounds tight = b;
      for (size_t f = from; f <= to; ++f) {
        tight.least = std::max(tight.least, bounds[axis][f].least);
        tight.most = std::min(tight.most, bounds[axis][f].most);
      }
      if (tight.least <= tight.most) b = tight;
      at.push_back(b);
    }
    path[axis] = calmedAxis(at, length / double(knots.size() - 1), options);
  }

  // Uses as few keys as possible: another one is added where the curve is farthest from the path, until all of it is
  // near.
  const auto pathAt = [&](size_t axis, size_t frame) {
    const auto next = std::upper_bound(knots.begin(), knots.end() - 1, frame);
    const auto k = size_t(next - knots.begin());
    const double u = double(frame - knots[k - 1]) / double(knots[k] - knots[k - 1]);
    return path[axis][k - 1] + (path[axis][k] - path[axis][k - 1]) * u;
  };
  Move move{keyAt(0, path[0].front(), path[1].front()), keyAt(count - 1, path[0].back(), path[1].back())};
  for (size_t more = 0; more < knots.size(); ++more) {
    double farthest = kNearEnough;
    size_t where = 0;
    for (const size_t frame : knots) {
      const MovePlace at = placeAt(move, time(frame).toDouble());
      const double off = std::max(std::abs(at.x - pathAt(0, frame)), std::abs(at.y - pathAt(1, frame)));
      if (off > farthest) {
        farthest = off;
        where = frame;
      }
    }
    if (farthest <= kNearEnough) break;
    setKey(move, keyAt(where, pathAt(0, where), pathAt(1, where)));
  }
  const bool rests = std::all_of(move.begin(), move.end(), [&](const MoveKey& key) {
    return std::max(std::abs(key.x - move.front().x), std::abs(key.y - move.front().y)) < kNearEnough;
  });
  if (rests) move.resize(1);
  return move;
}

} // namespace tromb
