"""The same core from a terminal. ``--json`` prints one object; errors are one line on stderr."""

from __future__ import annotations

import hashlib
import io
import json
import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from .core.checks.maps import assay_maps
from .core.checks.recipe import size_findings
from .core.errors import RecipeInvalid, SieveError, UnknownKey
from .core.findings import Finding, finding
from .core.intake import SourceProfile
from .core.intake.facts import with_measured_rise
from .core.intake.names import tile_of
from .core.recipe import Cache, Evaluation, Recipe, Source, origin_of, with_value
from .core.target import Target, legal_name
from .targets import shipped_target, shipped_targets
from .terminal.channels import pack, unpack
from .terminal.say import DONE, OUR_FAULT, STOPPED, WRONG_USE, Json, fail, print_json
from .work import Plan, Report, deliver, plan_delivery
from .work.deliveries.converting import decoded_recipe, expected_names, match_files
from .work.deliveries.handing import note_of
from .work.intake.grouping import claims_of, recipe_for, sets_of
from .work.intake.looking import Gathered, Looked, expand, gather, load_codes

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
app.command()(unpack)
app.command()(pack)

_CACHE_BYTES = 4 << 30
_GRADE_WORDS = {"stop": "Stops", "look": "Check", "note": "Note"}

Inputs = Annotated[list[Path], typer.Argument(help="Pictures, or folders of them")]
Profile = Annotated[Path | None, typer.Option(help="A source's profile, as Intake saves it")]


def _paths(inputs: list[Path]) -> list[Path]:
    missing = [str(path) for path in inputs if not path.exists()]
    if missing:
        raise fail(f"there is no {', '.join(missing)}. Name files or folders that exist.", WRONG_USE)
    paths = expand(inputs)
    if not paths:
        raise fail(f"no pictures in {', '.join(map(str, inputs))}. Name a file, or a folder that holds some.", WRONG_USE)
    return paths


def _look_at_all(inputs: list[Path], profile: Path | None = None) -> list[Gathered]:
    return list(gather(_paths(inputs), None if profile is None else _profile(profile)))


def _profile(path: Path) -> SourceProfile:
    try:
        return SourceProfile.model_validate_json(path.read_text("utf-8"))
    except (OSError, ValueError) as problem:
        raise fail(f"{path} is no source profile: {problem}. Save one in Intake.", WRONG_USE) from problem


def _grade_code(findings: list[Finding]) -> int:
    """How to leave: our own fault outranks what a file did wrong."""
    if any(f.id == "our-fault" for f in findings):
        return OUR_FAULT
    return STOPPED if any(f.grade == "stop" for f in findings) else DONE


def _tell(findings: list[Finding]) -> None:
    for found in findings:
        print(f"{_GRADE_WORDS[found.grade]}: {found.text}", file=sys.stderr)


@app.command()
def make(
    inputs: Inputs,
    target: Annotated[str, typer.Option(help="Key of the target, see `copper-sieve targets`")],
    out: Annotated[Path, typer.Option(help="Folder to write into")],
    name: Annotated[str | None, typer.Option(help="The set's name in file names")] = None,
    size: Annotated[int | None, typer.Option(min=1, max=16384, help="Longer side in px; default the set's own")] = None,
    set: Annotated[
        list[str] | None, typer.Option(help="KEY=VALUE: a recipe path such as height.contrast, or a fact such as rise")
    ] = None,
    manifest: Annotated[bool, typer.Option(help="Write manifest.json as well")] = False,
    note: Annotated[Path | None, typer.Option(help="Write the hand-over note to this file: .md, or .html")] = None,
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    profile: Profile = None,
    as_json: Json = False,
) -> None:
    """Take files in, derive what the target needs, deliver."""
    chosen = _chosen_target(target)
    gathered = _look_at_all(inputs, profile)
    groups = sets_of(file.looked for file in gathered)
    if len(groups) > 1:
        raise fail(f"these files belong to {len(groups)} sets: {', '.join(groups)}. Give one set's files at a time.", WRONG_USE)
    findings = [found for file in gathered for found in file.looked.findings]
    stem = next(iter(groups), "unnamed")
    given = name if name is not None else (stem if stem != "unnamed" else inputs[0].resolve().stem)
    set_name = legal_name(given)
    if name is not None and set_name != given:
        findings.append(finding("name-changed", name=set_name, given=repr(given)))
    recipe, problems = recipe_for(groups.get(stem, []))
    findings += problems
    answer: dict[str, Any] = {"target": chosen.key, "set": set_name, "files": [], "skipped": [], "masters": {}}
    if recipe is not None:
        contents, cache = {file.looked.sha256: file.content for file in gathered}, Cache(_CACHE_BYTES)

        def load(source: Source) -> Any:
            return load_codes(source, lambda sha256: contents[sha256]())

        recipe = _with_values(with_measured_rise(Evaluation(recipe, None, load, cache)), set or [])
        plan, report = _deliver(Evaluation(recipe, size, load, cache), chosen, set_name, out, replace)
        findings += plan.findings
        answer |= _delivered(plan, report, recipe)
        if report is not None and manifest:
            from .files import write_bytes

            write_bytes(out / "manifest.json", json.dumps(report.model_dump(), indent=2).encode())
        if report is not None and note is not None:
            from .files import write_bytes

            written = note_of(plan, chosen, recipe)
            write_bytes(note, (written.html() if note.suffix.lower() in (".html", ".htm") else written.markdown()).encode())
    raise _reported(answer, findings, out, as_json)


def _reported(answer: dict[str, Any], findings: list[Finding], out: Path, as_json: bool) -> typer.Exit:
    """Say what was written, left out and found, and how to leave."""
    answer["findings"] = [found.model_dump() for found in findings]
    if as_json:
        print_json(answer)
    else:
        _tell(findings)
        for file in answer["files"]:
            print(out / file["path"])
        for file in answer["files"]:
            for letter, channel in file["channels"].items():
                if channel["content"] == "fill":
                    print(f"filled: {file['path']}, {letter}: {channel['value']} everywhere, {channel['why']}")
        for skipped in answer["skipped"]:
            print(f"left out: {skipped['role']}, {skipped['why']}")
    return typer.Exit(_grade_code(findings))


def _chosen_target(key: str) -> Target:
    try:
        return shipped_target(key)
    except UnknownKey as problem:
        raise fail(problem.message, WRONG_USE) from problem


def _with_values(recipe: Recipe, settings: list[str]) -> Recipe:
    for setting in settings:
        path, equals, text = setting.partition("=")
        if not equals:
            raise fail(f"--set takes KEY=VALUE (got {setting!r}).", WRONG_USE)
        try:
            recipe = with_value(recipe, path.strip(), text.strip())
        except RecipeInvalid as problem:
            raise fail(problem.message, WRONG_USE) from problem
    return recipe


def _deliver(evaluation: Evaluation, target: Target, set_name: str, out: Path, replace: bool) -> tuple[Plan, Report | None]:
    plan = plan_delivery(evaluation, target, set_name)
    if plan.stops:
        return plan, None
    if out.exists() and not replace:
        foreign = _foreign(evaluation, target, plan, out)
        if foreign:
            raise fail(f"{', '.join(foreign)} in {out} would be replaced. Choose another folder, or say --replace.", STOPPED)
    return plan, deliver(evaluation, target, plan, out)


def _foreign(evaluation: Evaluation, target: Target, plan: Plan, out: Path) -> list[str]:
    """Files already there whose bytes would change and that our manifest does not name."""
    there = [f.name for f in plan.files if f.is_written and (out / f.name).exists()]
    if not there:
        return []
    known: set[str] = set()
    manifest = out / "manifest.json"
    if manifest.is_file():
        try:
            known = {f["sha256"] for f in json.loads(manifest.read_text())["files"]}
        except (ValueError, KeyError, TypeError):
            known = set()
    import tempfile

    with tempfile.TemporaryDirectory() as folder:  # what would be written, to compare bytes
        report = deliver(evaluation, target, plan, Path(folder) / "new")
    new = {f.name: f.sha256 for f in report.files}
    hashes = {name: hashlib.sha256((out / name).read_bytes()).hexdigest() for name in there}
    return [name for name in there if hashes[name] not in known and hashes[name] != new[name]]


def _delivered(plan: Plan, report: Report | None, recipe: Recipe) -> dict[str, Any]:
    files = []
    for file in plan.files:
        if report is None or not file.is_written:
            continue
        row = file.model_dump(include={"role", "width", "height", "depth", "format", "color"})
        channels = {
            c.letter: c.model_dump(include={"quantity", "component", "invert", "constant", "content", "value", "why"})
            for c in file.channels
        }
        files.append({"path": file.name, **row, "channels": channels})
    return {
        "files": files,
        "skipped": [{"role": f.role, "why": f.why} for f in plan.files if not f.is_written],
        "masters": {key: origin_of(recipe, key) for key in recipe.keys},
    }


@app.command()
def convert(
    inputs: Inputs,
    source: Annotated[str, typer.Option("--from", help="Key of the target the files were made for")],
    to: Annotated[str, typer.Option(help="Key of the target to write")],
    out: Annotated[Path, typer.Option(help="Folder to write into; with several sets, one folder each in it")],
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    as_json: Json = False,
) -> None:
    """Read one target's files by its own table and write another's. Nothing is derived."""
    have, want = _chosen_target(source), _chosen_target(to)
    paths = _paths(inputs)
    matched = match_files(have, paths)
    if not matched.sets:
        raise fail(f"no file is named as {have.key} names them: {expected_names(have)}.", WRONG_USE)
    findings = [finding("not-of-target", file=path.name, target=have.title) for path in matched.others]
    answer: dict[str, Any] = {"target": want.key, "set": None, "files": [], "skipped": [], "masters": {}}
    several = len(matched.sets) > 1
    for name, roles in matched.sets.items():
        folder = out / name if several else out
        try:
            recipe, load = decoded_recipe(have, roles)
        except SieveError as problem:
            findings.append(finding("unreadable", file=name, why=problem.message))
            continue
        cache = Cache(_CACHE_BYTES)
        recipe = with_measured_rise(Evaluation(recipe, None, load, cache))
        plan, report = _deliver(Evaluation(recipe, None, load, cache), want, name, folder, replace)
        findings += plan.findings
        row = _delivered(plan, report, recipe)
        if several:
            row["files"] = [{**file, "path": f"{name}/{file['path']}"} for file in row["files"]]
        answer["files"] += row["files"]
        answer["skipped"] += row["skipped"]
        answer |= {} if several else {"set": name, "masters": row["masters"]}
    raise _reported(answer, findings, out, as_json)


@app.command()
def look(inputs: Inputs, profile: Profile = None, as_json: Json = False) -> None:
    """Say what each file is, with the reason, and everything that was found, on files and on the sets they make."""
    gathered = _look_at_all(inputs, profile)
    sets = _set_rows(gathered)
    findings = [found for file in gathered for found in file.looked.findings]
    findings += [found for row in sets for found in row["findings"]]
    if as_json:
        rows = [{**row, "findings": [found.model_dump() for found in row["findings"]]} for row in sets]
        print_json({"files": [_look_row(file.label, file.looked) for file in gathered], "sets": rows})
    else:
        for file in gathered:
            p, what = file.looked.header, file.looked.look
            if p is None or what is None:
                continue  # its finding says why
            kind = f"perhaps {' or '.join(what.guesses)}" if what.kind == "unknown" and what.guesses else what.kind
            print(f"{file.label}: {kind}, {p.width} × {p.height}, {p.depth} bit, {p.letters}; {'; '.join(what.because)}")
        _tell(findings)
    raise typer.Exit(_grade_code(findings))


def _look_row(label: str, file: Looked) -> dict[str, Any]:
    row: dict[str, Any] = {"path": label}
    if file.header is None or file.look is None:
        row |= {"width": None, "height": None, "depth": None, "channels": None, "kind": "unknown", "kind_confidence": 0.0}
        row |= {"green": None, "green_confidence": None, "packed": None}
    else:
        picture, what = file.header, file.look
        packed = what.reads if len(what.reads) > 1 else None
        row |= {
            "width": picture.width,
            "height": picture.height,
            "depth": picture.depth,
            "channels": picture.channels,
            "kind": what.kind,
            "kind_confidence": round(what.confidence, 3),
            "because": list(what.because),
            "green": what.green.answer if what.green else None,
            "green_confidence": round(what.green.confidence, 3) if what.green else None,
            "green_reason": what.green.reason if what.green else None,
            "packed": packed,
            "spans": what.spans,
            "guess": what.guess,
            "guesses": list(what.guesses),
            "faults": list(what.faults),
            "profile": what.profile,
            "statistics": {"mean": what.content.mean, "low": what.content.low, "high": what.content.high},
        }
    return {**row, "findings": [found.model_dump() for found in file.findings]}


def _set_rows(gathered: list[Gathered]) -> list[dict[str, Any]]:
    """Sets with the best file per kind, all sources, those that lost, and the findings on the set as a whole."""
    by_id = {id(file.looked): file for file in gathered}
    rows = []
    for name, files in sets_of(file.looked for file in gathered).items():
        claims = claims_of(files)
        maps = {key: by_id[id(claim.file)].label for claim in claims for key in claim.entry.reads.values()}
        rivals = [by_id[id(claim.file)].label for claim in claims if claim.lost_to is not None]
        sources = [
            {"path": by_id[id(f)].label, "tile": tile_of(f.name), "channels": f.look.reads if f.look else {}} for f in files
        ]
        findings = _set_findings([by_id[id(file)] for file in files])
        rows.append({"name": name, "maps": maps, "sources": sources, "rivals": sorted(rivals), "findings": findings})
    return rows


def _set_findings(files: list[Gathered]) -> list[Finding]:
    recipe, findings = recipe_for(file.looked for file in files)
    if recipe is None:
        return [found for found in findings if found.id != "nothing-usable"]  # each file has said why by itself
    contents = {file.looked.sha256: file.content for file in files}

    def load(source: Source) -> Any:
        return load_codes(source, lambda sha256: contents[sha256]())

    evaluation = Evaluation(recipe, None, load, Cache(_CACHE_BYTES))
    return [*findings, *size_findings(evaluation), *(marked.finding for marked in assay_maps(evaluation))]


@app.command()
def targets(as_json: Json = False) -> None:
    """List the targets that files can be delivered to."""
    if as_json:
        print_json({"targets": [t.model_dump(mode="json", by_alias=True) for t in shipped_targets().values()]})
        return
    for target in shipped_targets().values():
        print(f"{target.key}: {target.title} ({', '.join(file.title for file in target.files)})")


@app.command()
def serve(
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8420,
    data: Annotated[Path, typer.Option(help="Folder for the database, the cache and deliveries")] = Path(".data"),
    demo: Annotated[bool, typer.Option(help="Load the demo on first start")] = True,
    prepare: Annotated[bool, typer.Option(help="Set everything up and leave")] = False,
    folder: Annotated[list[Path] | None, typer.Option(help="Folder that sets may be linked to")] = None,
) -> None:
    """Start PostgreSQL on loopback and serve the application."""
    from .server import ServerProblem, run_server

    try:
        run_server(data=data, port=port, demo=demo, prepare=prepare, folders=folder or [])
    except ServerProblem as problem:
        raise fail(str(problem), STOPPED) from problem


def main() -> None:
    """Run the terminal program; every error we know becomes one line and an exit status."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")  # a file's name may hold what the terminal cannot show
    try:
        app()
    except SieveError as problem:
        print(f"copper-sieve: {problem.message}", file=sys.stderr)
        sys.exit(STOPPED)
    except OSError as problem:
        print(f"copper-sieve: {problem}. Check the disk and the folder's rights.", file=sys.stderr)
        sys.exit(OUR_FAULT)


if __name__ == "__main__":
    main()
