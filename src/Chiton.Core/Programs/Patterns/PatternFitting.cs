using System.Globalization;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Patterns;

/// <summary>Something that fits a hole.</summary>
/// <param name="Value">The name.</param>
/// <param name="Of">Of a zone, position or direction whose it is; null otherwise.</param>
public sealed record HoleOption(string Value, string? Of);

/// <summary>A number for a hole that follows from what a copy is known to do.</summary>
/// <param name="Value">As it would be written.</param>
/// <param name="Source">Where it comes from.</param>
/// <param name="For">The motor or mechanism it holds for.</param>
public sealed record HoleFigure(string Value, string Source, string For);

/// <summary>A hole with what fits it on a rig.</summary>
/// <param name="Hole">The hole.</param>
/// <param name="Options">What fits; empty for numbers and texts.</param>
/// <param name="Value">What is taken to begin with; empty when nothing fits.</param>
/// <param name="Source">Where that comes from, in words; empty for a name.</param>
/// <param name="Missing">What the rig lacks, in a sentence; null when something fits.</param>
public sealed record FittedHole(Hole Hole, IReadOnlyList<HoleOption> Options, string Value, string Source, string? Missing);

/// <summary>A pattern held against a rig.</summary>
/// <param name="Pattern">The pattern.</param>
/// <param name="Holes">Its holes with what fits.</param>
public sealed record FittedPattern(Pattern Pattern, IReadOnlyList<FittedHole> Holes);

/// <summary>What a filled pattern comes to.</summary>
/// <param name="Script">The whole program with it.</param>
/// <param name="Added">Its own lines, as they will stand.</param>
/// <param name="Diagnostics">What cannot be read in the whole program.</param>
public sealed record PatternResult(string Script, string Added, IReadOnlyList<Diagnostic> Diagnostics);

/// <summary>Fits patterns to a rig and puts them into a program.</summary>
public static class PatternFitting
{
    /// <summary>Holds a pattern against a rig: what fits each hole, and what is taken first.</summary>
    /// <param name="pattern">The pattern.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="program">Name of the program it is for, which tells itself nothing.</param>
    /// <param name="readings">Readings in a row that a sensor needs, by its name; missing where nothing was recorded.</param>
    /// <param name="figures">Numbers that follow from what the copy is known to do, by pattern and hole as <c>marker-stop.speed</c>; none
    /// when left out.</param>
    /// <param name="leasts">The least power that surely moves them, by motor or mechanism; none when left out.</param>
    public static FittedPattern Fit(
        Pattern pattern,
        RigDesign rig,
        string program,
        IReadOnlyDictionary<string, int> readings,
        IReadOnlyDictionary<string, HoleFigure>? figures = null,
        IReadOnlyDictionary<string, HoleFigure>? leasts = null
    )
    {
        var words = Vocabulary.Of(rig);
        var fitted = new List<FittedHole>();
        var chosen = new Dictionary<string, string>();
        var used = new HashSet<string>();
        foreach (var hole in pattern.Holes)
        {
            var options = Options(hole, words, program);
            IReadOnlyList<HoleOption> mine = hole.Of is null
                ? options
                : [.. options.Where(o => o.Of == chosen.GetValueOrDefault(hole.Of, ""))];
            // What a pattern needs two of is not there with one.
            var alone = hole.Not is { } other && mine.Count > 0 && mine.All(o => o.Value == chosen.GetValueOrDefault(other, ""));
            if (hole.Not is { } not)
                mine = [.. mine.Where(o => o.Value != chosen.GetValueOrDefault(not, ""))];
            var (value, source) = ("", "");
            if (figures?.GetValueOrDefault($"{pattern.Id}.{hole.Id}") is { } figure && Moves(figure.For))
                (value, source) = (figure.Value, figure.Source);
            else if (hole.Kind is HoleKind.Number or HoleKind.Numbers or HoleKind.Text)
                (value, source) = (hole.Default, hole.Kind == HoleKind.Text ? "" : "a usual value, chosen");
            else if (hole.Kind == HoleKind.Readings)
            {
                var sensor = chosen.GetValueOrDefault(hole.Of!, "");
                (value, source) = readings.TryGetValue(sensor, out var n)
                    ? (n.ToString(CultureInfo.InvariantCulture), $"what the zones of {sensor} need on this copy")
                    : ("2", "nothing recorded yet, so two to be careful");
            }
            else if (mine.Count > 0)
            {
                // First what is named like it and not used yet, then by its place.
                var wanted = hole.Default.Split('|', StringSplitOptions.RemoveEmptyEntries);
                var free = hole.Of is null ? [.. mine.Where(o => !used.Contains(o.Value))] : mine;
                if (free.Count == 0)
                    free = mine;
                var named = wanted
                    .Select(w => free.FirstOrDefault(o => o.Value.Contains(w, StringComparison.OrdinalIgnoreCase)))
                    .FirstOrDefault(o => o is not null);
                var at =
                    free.Count < mine.Count || hole.Not is not null ? 0
                    : hole.Pick < 0 ? free.Count - 1
                    : Math.Min(hole.Pick, free.Count - 1);
                value = (named ?? free[at]).Value;
                used.Add(value);
            }
            // What a motor of the pattern needs to move at all is the least that is taken.
            if (hole.IsPower && double.TryParse(value, CultureInfo.InvariantCulture, out var power))
                foreach (var name in chosen.Values)
                    if (leasts?.GetValueOrDefault(name) is { } least && Percent(least) > power)
                        (power, value, source) = (Percent(least), least.Value, least.Source);
            chosen[hole.Id] = value;
            fitted.Add(
                new(
                    hole,
                    options,
                    value,
                    source,
                    value != "" || hole.Kind == HoleKind.Text ? null
                        : alone ? Single(hole, chosen)
                        : Lacks(hole, chosen)
                )
            );
        }
        return new(pattern, fitted);

        // A mechanism stands for its motors.
        bool Moves(string name) =>
            chosen.ContainsValue(name) || words.Mechanisms.Any(m => m.Motors.Contains(name) && chosen.ContainsValue(m.Name));
    }

    private static double Percent(HoleFigure figure) => double.Parse(figure.Value, CultureInfo.InvariantCulture);

    private static string Single(Hole hole, Dictionary<string, string> chosen) =>
        $"This pattern needs two: beside {chosen[hole.Not!]} this rig has nothing for {hole.Label}. Describe one more in Rig.";

    private static string Lacks(Hole hole, Dictionary<string, string> chosen) =>
        hole.Kind switch
        {
            HoleKind.Eye => "This rig has no sensor with zones. Describe one in Rig, with its zones.",
            HoleKind.Range => "This rig has no distance sensor with zones. Describe one in Rig.",
            HoleKind.Button => "This rig has no button or switch. Describe one in Rig.",
            HoleKind.Motor => "This rig has no motor that fits. Describe one in Rig.",
            HoleKind.Drive => "This rig has no two-wheel drive. Describe one in Rig.",
            HoleKind.Mover => "This rig has no mechanism with named positions. Record some in Rig.",
            HoleKind.Any => "This rig has no sensor with zones and no button. Describe one in Rig.",
            HoleKind.Doer => "This rig has no lamp, motor or sounder. Describe one in Rig.",
            HoleKind.Lamp => "This rig has no lamp. Describe one in Rig.",
            HoleKind.Like => "This rig has nothing of that kind. Describe one in Rig.",
            HoleKind.Program => "This rig has no other program. Add one with Programs.",
            HoleKind.Zone => $"{Named(hole, chosen)} has no zones. Name some in Sense.",
            HoleKind.Position => $"{Named(hole, chosen)} has no named positions. Record some in Rig.",
            _ => $"{Named(hole, chosen)} has no named directions.",
        };

    private static string Named(Hole hole, Dictionary<string, string> chosen) =>
        chosen.GetValueOrDefault(hole.Of ?? "", "") is { Length: > 0 } name ? name : "What is missing above";

    private static IReadOnlyList<HoleOption> Options(Hole hole, Vocabulary rig, string program)
    {
        static IReadOnlyList<HoleOption> Plain(IEnumerable<string> names) => [.. names.Distinct().Select(n => new HoleOption(n, null))];
        ActuatorKind[] turning = [ActuatorKind.RegulatedMotor, ActuatorKind.PlainMotor];
        switch (hole.Kind)
        {
            case HoleKind.Eye:
                return Plain(
                    rig.Sensors.Where(s => !s.Switch && s.Zones.Count >= 2).OrderBy(s => s.Reads == Dimension.Length).Select(s => s.Name)
                );
            case HoleKind.Range:
                return Plain(
                    rig.Sensors.Where(s => !s.Switch && s.Zones.Count >= 2)
                        .OrderByDescending(s => s.Reads == Dimension.Length)
                        .Select(s => s.Name)
                );
            case HoleKind.Button:
                return Plain(rig.Sensors.Where(s => s.Switch).Select(s => s.Name));
            case HoleKind.Any:
                return Plain(rig.Sensors.Where(s => s.Switch || s.Zones.Count >= 2).OrderByDescending(s => s.Switch).Select(s => s.Name));
            case HoleKind.Doer:
                return Plain(
                    rig.Named(ActuatorKind.Lamp)
                        .Concat(rig.Named(ActuatorKind.Sounder))
                        .Concat(Options(new("", "", HoleKind.Motor), rig, program).Select(o => o.Value))
                        .Concat(rig.Mechanisms.Where(m => m.Going == Going.Steered || m.Positions.Count >= 2).Select(m => m.Name))
                );
            case HoleKind.Zone:
                return [.. rig.Sensors.SelectMany(s => s.Zones.Select(z => new HoleOption(z, s.Name)))];
            case HoleKind.Motor:
                // A mechanism before its own motor; the wheels of a drive are not run one by one.
                var wheels = rig.Mechanisms.Where(m => m.Going == Going.Steered).SelectMany(m => m.Motors).ToHashSet();
                var owned = rig.Mechanisms.SelectMany(m => m.Motors).ToHashSet();
                return Plain(
                    rig.Mechanisms.Where(m => m.Going != Going.Steered && m.Motor is { } k && turning.Contains(k))
                        .Select(m => m.Name)
                        .Concat(rig.Named(turning).Where(n => !wheels.Contains(n) && !owned.Contains(n)))
                );
            case HoleKind.Drive:
                return Plain(rig.Mechanisms.Where(m => m.Going == Going.Steered).Select(m => m.Name));
            case HoleKind.Mover:
                return Plain(rig.Mechanisms.Where(m => m.Positions.Count >= 2).Select(m => m.Name));
            case HoleKind.Position:
                return [.. rig.Mechanisms.SelectMany(m => m.Positions.Select(p => new HoleOption(p, m.Name)))];
            case HoleKind.Direction:
                return
                [
                    .. rig.Commanded.SelectMany(n =>
                        (rig.Mechanisms.FirstOrDefault(m => m.Name == n)?.Directions ?? [])
                            .Concat(["forward", "back"])
                            .Select(d => new HoleOption(d, n))
                    ),
                ];
            case HoleKind.Lamp:
                return Plain(rig.Named(ActuatorKind.Lamp));
            case HoleKind.Program:
                return Plain(rig.Programs.Where(p => p != program));
            case HoleKind.Like:
                var (what, kind) = (hole.Like.Split(' ')[0], hole.Like[(hole.Like.IndexOf(' ') + 1)..]);
                return what == "actuator"
                    ? Plain(rig.Actuators.Where(a => a.Kind.ToString() == kind).Select(a => a.Name))
                    : Plain(rig.Mechanisms.Where(m => m.Going != Going.Steered && m.Motor.ToString() == kind).Select(m => m.Name));
            default:
                return [];
        }
    }

    /// <summary>Fills a pattern and puts it into a program.</summary>
    /// <param name="pattern">The pattern.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="script">The program it is put into, without faults.</param>
    /// <param name="values">What fills the holes, by their short names.</param>
    /// <param name="schools">The school of each choice; the default where none is given.</param>
    /// <param name="into">A region that takes up its states; null for a region of its own.</param>
    /// <exception cref="InputProblem">When a hole is empty or filled with what does not fit, naming it.</exception>
    public static PatternResult Insert(
        Pattern pattern,
        RigDesign rig,
        string script,
        IReadOnlyDictionary<string, string> values,
        IReadOnlyDictionary<string, string> schools,
        string? into
    )
    {
        var words = Vocabulary.Of(rig);
        var parsed = ScriptParser.Parse(script, words);
        // What has no region of its own, a routine, stands beside the regions whatever was chosen.
        if (pattern.Region == "")
            into = null;
        // A program without a state is no program yet; the pattern gives it its first.
        var blank = !parsed.Program.AllStates.Any();
        if (parsed.Diagnostics.FirstOrDefault(d => !(blank && d.Line == 1)) is { } fault)
            throw new InputProblem("script", $"Mend the program first: line {fault.Line}: {fault.Message}");
        var need = new Require();
        var chosen = pattern.Choices.ToDictionary(
            c => c.Id,
            c => schools.GetValueOrDefault(c.Id) is { Length: > 0 } s ? s : c.Schools[0].Id
        );
        foreach (var c in pattern.Choices)
            need.That(
                c.Schools.Any(s => s.Id == chosen[c.Id]),
                $"schools.{c.Id}",
                $"Choose one of {string.Join(", ", c.Schools.Select(s => s.Label))}."
            );
        need.Done();
        var filled = new Dictionary<string, string>();
        foreach (var hole in pattern.Holes.Where(h => Asked(h, chosen)))
        {
            var value = values.GetValueOrDefault(hole.Id)?.Trim() ?? "";
            var field = $"values.{hole.Id}";
            switch (hole.Kind)
            {
                case HoleKind.Number:
                    var plain = value.Replace(',', '.');
                    need.That(
                        double.TryParse(plain, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
                            && number >= hole.Min
                            && number <= hole.Max,
                        field,
                        $"{Capital(hole.Label)}: give a number from {Figures.Show(hole.Min)} to "
                            + $"{Figures.Show(hole.Max)}{(hole.Unit == "" ? "" : " " + hole.Unit)}."
                    );
                    value = plain;
                    break;
                case HoleKind.Numbers:
                    string[] each = [.. value.Split(',', ';').Select(v => v.Trim())];
                    need.That(
                        each.Length is >= 1 and <= 50
                            && each.All(v =>
                                double.TryParse(
                                    v,
                                    NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign,
                                    CultureInfo.InvariantCulture,
                                    out var one
                                )
                                && one >= hole.Min
                                && one <= hole.Max
                            ),
                        field,
                        $"{Capital(hole.Label)}: give 1 to 50 numbers from {Figures.Show(hole.Min)} to {Figures.Show(hole.Max)}, "
                            + "with commas between."
                    );
                    value = string.Join(", ", each);
                    break;
                case HoleKind.Readings:
                    need.That(
                        int.TryParse(value, NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n is >= 1 and <= 1000,
                        field,
                        "Give 1 to 1000 readings in a row."
                    );
                    break;
                case HoleKind.Text:
                    need.That(
                        value.Length is > 0 and <= 80 && !value.Contains('"'),
                        field,
                        $"{Capital(hole.Label)}: give 1 to 80 characters without quotes."
                    );
                    break;
                default:
                    var options = Options(hole, words, parsed.Program.Name)
                        .Where(o => hole.Of is null || o.Of == filled.GetValueOrDefault(hole.Of))
                        .Where(o => hole.Not is null || o.Value != filled.GetValueOrDefault(hole.Not))
                        .Select(o => o.Value)
                        .Distinct()
                        .ToArray();
                    need.That(
                        options.Contains(value),
                        field,
                        options.Length == 0
                            ? hole.Not is { } second && filled.ContainsKey(second)
                                ? Single(hole, filled)
                                : Lacks(hole, filled)
                            : $"{Capital(hole.Label)}: choose one of {string.Join(", ", options)}."
                    );
                    break;
            }
            filled[hole.Id] = value;
        }
        // What something does, and how it comes to rest, depends on what it is; so does what begins with a sensor.
        foreach (var hole in pattern.Holes.Where(h => h.Kind is HoleKind.Doer or HoleKind.Any && filled.ContainsKey(h.Id)))
            if (hole.Kind == HoleKind.Doer)
                (filled[hole.Id + ".on"], filled[hole.Id + ".off"]) = Doing(
                    words,
                    filled[hole.Id],
                    filled.GetValueOrDefault("power", "30")
                );
            else
                filled[hole.Id + ".when"] = Beginning(words, filled[hole.Id], pattern.Holes, hole.Id, filled);
        need.That(into is null || parsed.Program.Regions.Any(r => r.Name == into), "into", $"There is no region “{into}”.");
        need.Done();
        var taken = new HashSet<string>(
            parsed
                .Program.Head.Select(h =>
                    h switch
                    {
                        VarNode v => v.Name,
                        ConstNode c => c.Name,
                        _ => "",
                    }
                )
                .Concat(parsed.Program.Regions.Select(r => r.Name))
                .Concat(parsed.Program.Routines.Select(r => r.Name))
                .Concat(words.Sensors.Select(s => s.Name))
                .Concat(words.Commanded)
                .Concat(
                    into is null ? [] : parsed.Program.Regions.Where(r => r.Name == into).SelectMany(r => r.AllStates).Select(s => s.Name)
                )
        );
        var made = pattern.Write(
            new(
                filled,
                chosen,
                taken,
                into is null ? new Dictionary<string, string>() : new Dictionary<string, string> { [pattern.Region] = into }
            )
        );
        // Lines that a school leaves out are gone without a trace.
        var body = string.Join(
                '\n',
                made.Body.Split('\n')
                    .Select(l => l.TrimEnd())
                    .Aggregate(
                        new List<string>(),
                        (kept, line) =>
                        {
                            if (line != "" || kept.Count == 0 || kept[^1] != "")
                                kept.Add(line);
                            return kept;
                        }
                    )
            )
            .Trim('\n');
        var piece = Read(made.Head, body, words);
        var regions = parsed.Program.Regions;
        var added = piece.Regions;
        if (into is not null)
        {
            var at = regions.ToList().FindIndex(r => r.Name == into);
            // The states of its first region join; what else it has stays a region. Where the region begins is the region's own affair.
            regions = regions.With(
                at,
                regions[at] with
                {
                    States =
                    [
                        .. regions[at].States,
                        .. added[0].States.Select(s => regions[at].States.Count > 0 ? s with { Initial = false } : s),
                    ],
                }
            );
            added = added.Skip(1).ToSequence();
        }
        else if (blank && added.Count > 0)
            regions = regions.Where(r => r.States.Count > 0).ToSequence();
        var whole = Printer.Print(
            parsed.Program with
            {
                Head = [.. parsed.Program.Head, .. piece.Head],
                Regions = [.. regions, .. added],
                Routines = [.. parsed.Program.Routines, .. piece.Routines],
            }
        );
        var check = ScriptParser.Parse(whole, words);
        return new(whole, string.Join('\n', new[] { made.Head, body }.Where(t => t != "")) + "\n", check.Diagnostics);
    }

    private static (string On, string Off) Doing(Vocabulary rig, string name, string power)
    {
        if (rig.Mechanisms.FirstOrDefault(m => m.Name == name) is { } m)
            return m.Going == Going.Steered ? ($"drive back at {power} %", "")
                : m.Motor is ActuatorKind.RegulatedMotor or ActuatorKind.PlainMotor ? ($"run {name} at {power} %", "")
                : ($"send {name} to {m.Positions[^1]}", $"send {name} to {m.Positions[0]}");
        return rig.Actuators.FirstOrDefault(a => a.Name == name)?.Kind switch
        {
            ActuatorKind.Lamp => ($"turn {name} on", ""),
            ActuatorKind.Sounder => ("tone 500 Hz 0.2 s on 0.2 s off", ""),
            _ => ($"run {name} at {power} %", ""),
        };
    }

    // “Start button is pressed”, “Range becomes near for 3 readings”: by what kind of sensor it is.
    private static string Beginning(
        Vocabulary rig,
        string sensor,
        IReadOnlyList<Hole> holes,
        string id,
        IReadOnlyDictionary<string, string> filled
    )
    {
        var zone = holes.FirstOrDefault(h => h.Kind == HoleKind.Zone && h.Of == id) is { } z ? filled.GetValueOrDefault(z.Id, "") : "";
        if (rig.Sensors.First(s => s.Name == sensor).Switch)
            return $"{sensor} is {(zone == "up" ? "released" : "pressed")}";
        var row = holes.FirstOrDefault(h => h.Kind == HoleKind.Readings && h.Of == id) is { } r ? filled.GetValueOrDefault(r.Id, "1") : "1";
        return $"{sensor} becomes {zone}{(row is "1" or "" ? "" : $" for {row} readings")}";
    }

    private static ProgramNode Read(string head, string body, Vocabulary words) =>
        ScriptParser.Parse($"program Piece\n{(head == "" ? "" : head + "\n")}\n{body}\n", words).Program;

    /// <summary>True when a hole is asked under the chosen schools.</summary>
    public static bool Asked(Hole hole, IReadOnlyDictionary<string, string> schools) =>
        hole.Only is null || hole.Only.Split('&').All(o => schools.GetValueOrDefault(o.Split('=')[0]) == o.Split('=')[1]);

    private static string Capital(string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];
}
