"""From format 1 to 2: estimates say what they measure, moves say what they change, scatter belongs
to an instrument, and places stand in fields instead of in keys."""

from __future__ import annotations

from collections import Counter
from typing import Any

from truing.contract.upgrade import Steps

Data = dict[str, Any]

_MEASURES: dict[str, dict[str, str]] = {
    "spindle_tram": {"lean_x": "slope", "nod": "slope"},
    "base_level": {"twist": "twist", "slope_x": "slope", "slope_y": "slope"},
    "rail_straight": {"slope": "slope"},
    "gib_shim": {"taper": "slope"},
    "drive_proof": {"proven": "feed", "recommended": "feed"},
}
"""What the quantities of format 1 measured, where it was not a length."""


def step(shape: str, data: Data, kind: str, own: Steps) -> Data:
    """One object of format 1 as format 2 writes it."""
    if shape == "outcome":
        return _outcome(data, kind, own)
    if shape == "snapshot":
        return {**data, "history": _history(data["history"], kind, data["setup"].get("way", ""))}
    if shape == "lesson":
        return {
            "way": data["way"],
            "values": {
                q["key"]: _estimate(q["estimate"], kind, q["key"]) for q in data["quantities"]
            },
            "spreads": {data["instrument"]: data["spread"]},
        }
    if shape == "advice":
        return {**data, "moves": [_move(m, kind) for m in data["moves"]]}
    if shape == "move":
        return _move(data, kind)
    if shape == "made":
        return _made(data)
    if shape == "prediction":
        return _prediction(data, kind)
    return own[shape](data) if shape in own else data


def measured(estimate: Data, measure: str) -> Data:
    """An estimate that says what it measures."""
    return {**estimate, "measure": measure}


def _measure(kind: str, key: str) -> str:
    return _MEASURES.get(kind, {}).get(key.partition("@")[0], "length")


def _estimate(estimate: Data, kind: str, key: str) -> Data:
    return measured(estimate, _measure(kind, key))


def _at(key: str) -> float | None:
    where = key.partition("@")[2]
    return float(where) if where else None


def _outcome(data: Data, kind: str, own: Steps) -> Data:
    finding: Any = data.get("finding")
    judgement = data.get("judgement")
    if finding is not None:
        finding = _finding(finding, kind)
        finding = own["finding"](finding) if "finding" in own else finding
    if judgement is not None:
        judged = [{"measure": "slope", **j} for j in judgement["judged"]]
        judgement = {**judgement, "judged": judged}
    return {**data, "finding": finding, "judgement": judgement}


def _finding(finding: Data, kind: str) -> Data:
    quantities = []
    for q in finding["quantities"]:
        # before there were other measures every quantity was a slope
        measure = q.get("measure") or _measure(kind, q["key"])
        key = str(q["key"])
        quantities.append(
            {
                **q,
                "sentence": q["sentence"] if q["sentence"]["metric"] else None,
                "sort": q["tolerance_key"] or key,
                "at_mm": _at(key),
                "estimate": measured(q["estimate"], measure),
            }
        )
    return {**finding, "quantities": quantities, "spreads": {"": finding["spread"]}}


def _prediction(data: Data, kind: str) -> Data:
    return {**data, "after": _estimate(data["after"], kind, data["quantity"])}


def _about(key: str) -> str:
    """A remedy's link stood in its key."""
    what, _, which = key.partition(":")
    return which if what == "remedy" else ""


def _made(data: Data) -> Data:
    return {
        "key": data["key"],
        "mechanism": data["mechanism"],
        "about": _about(data["key"]),
        "aimed": data.get("aimed", data.get("aimed_mm_per_m", {})),
        "shift": data.get("tightening_mm_per_m", {}),
    }


def _move(data: Data, kind: str) -> Data:
    taken = data["takes_off"] if "takes_off" in data else data["corrects_mm_per_m"]
    stacks = data.get("stacks", [])
    return {
        **data,
        "about": _about(data["key"]),
        "targets": [{**t, "quantity": "", "per_mm": 0.0} for t in data.get("targets", [])],
        "predicted": [_prediction(p, kind) for p in data["predicted"]],
        "takes": [
            {"quantity": key, "sort": key.partition("@")[0], "at_mm": _at(key), "amount": amount}
            for key, amount in taken.items()
        ],
        "changes": _changes(data, stacks),
        "tin": _tin(stacks),
    }


def _changes(data: Data, stacks: list[Data]) -> list[Data]:
    if data["key"] == "compensate" and data.get("entries"):
        entry = data["entries"][0]
        path = f"slides[direction={data['part']}].compensation_mm"
        return [{"path": path, "before": entry["before_mm"], "after": entry["value_mm"]}]
    if data["mechanism"] == "column_base":
        return [
            {
                "path": f"base.pads[name={s['pad']}].shims_mm",
                "before": s["before_mm"],
                "after": s["after_mm"],
            }
            for s in stacks
        ]
    if data["mechanism"] == "bracket":
        rows = {"upper screws": "top", "lower screws": "bottom"}
        return [
            {
                "path": f"bracket.{rows[s['pad']]}_shims_mm",
                "before": s["before_mm"],
                "after": s["after_mm"],
            }
            for s in stacks
        ]
    if data["mechanism"] == "rail_packs":
        return [
            {
                "path": f"rails.packs[x_mm={s['x_mm']:g},y_mm={s['y_mm']:g}]",
                "before": _pack(s, "before_mm"),
                "after": _pack(s, "after_mm"),
            }
            for s in stacks
            if sorted(s["before_mm"]) != sorted(s["after_mm"])
        ]
    return []


def _pack(stack: Data, when: str) -> Data | None:
    if not stack[when]:
        return None
    place = {"name": stack["pad"], "x_mm": stack["x_mm"], "y_mm": stack["y_mm"]}
    return {**place, "shims_mm": stack[when]}


def _tin(stacks: list[Data]) -> list[Data]:
    moved: Counter[float] = Counter()
    for stack in stacks:
        moved.update(round(t, 6) for t in stack["after_mm"])
        moved.subtract(round(t, 6) for t in stack["before_mm"])
    return [{"thickness_mm": t, "count": n} for t, n in sorted(moved.items()) if n]


def _history(data: Data, kind: str, way: str) -> Data:
    past: list[Data] = []
    for mechanism, by_quantity in data.get("shifts", {}).items():
        for quantity, shifts in by_quantity.items():
            past += [
                {
                    "number": 0,
                    "sitting": "before",
                    "values": {},
                    "move": {
                        "key": "",
                        "mechanism": mechanism,
                        "aimed": {},
                        "shift": {quantity: s},
                    },
                }
                for s in shifts
            ]
    rounds = [
        {
            **r,
            "way": way,
            "values": {k: _estimate(e, kind, k) for k, e in r["values"].items()},
            "move": _made(r["move"]) if r.get("move") else None,
        }
        for r in data["rounds"]
    ]
    if data.get("spread", {}).get("dof") and rounds:
        # which round it came from was not kept apart
        rounds[-1]["spreads"] = {"": data["spread"]}
    return {"sitting": "", "past": [*past, *rounds]}
