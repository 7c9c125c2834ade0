/** What one reading changed of its round, put into the check as the page has it. */
import type { CheckState, RoundState, Schemas } from "./client";

export type News = Schemas["NewsOut"];

/** The check with the news in it; the same check when the news is of no round of it. */
export function withNews(check: CheckState, news: News): CheckState {
  if (!check.rounds.some((r) => r.id === news.round_id)) return check;
  return {
    ...check,
    rounds: check.rounds.map((r) => (r.id === news.round_id ? withReadings(r, news) : r)),
  };
}

function withReadings(round: RoundState, news: News): RoundState {
  const told = new Map(news.readings.map((r) => [r.id, r]));
  const readings = round.readings.map((r) => told.get(r.id) ?? r);
  const known = new Set(readings.map((r) => r.id));
  for (const fresh of news.readings.filter((r) => !known.has(r.id))) {
    const at = readings.findIndex((r) => r.id === news.after);
    // one whose neighbour this page does not know yet stands at the end until the page is read anew
    readings.splice(news.after === null ? 0 : at < 0 ? readings.length : at + 1, 0, fresh);
  }
  const changed = new Map(news.stations.map((s) => [s.key, s]));
  const here = new Map(round.stations.map((s) => [s.key, changed.get(s.key) ?? s]));
  for (const [key, station] of changed) here.set(key, station);
  const order = news.order ?? round.stations.map((s) => s.key);
  return {
    ...round,
    readings,
    stations: order.flatMap((key) => here.get(key) ?? []),
    turn: news.turn ?? round.turn,
    next_station: news.next_station,
    brief: news.brief,
  };
}
