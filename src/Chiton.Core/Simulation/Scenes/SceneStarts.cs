using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>A scene to begin with.</summary>
/// <param name="Name">What it is called in the list of starts.</param>
/// <param name="Text">The scene.</param>
public sealed record SceneStart(string Name, string Text);

/// <summary>Scenes to begin with, the scene of a rig that has none yet, and a rail as a scene.</summary>
public static class SceneStarts
{
    private static string N(double value) => Math.Round(value, 4).ToString(CultureInfo.InvariantCulture);

    /// <summary>The scenes of a rig: its own, or the one that stands for them.</summary>
    public static Sequence<SceneText> Of(RigDesign rig) => rig.Scenes.Count > 0 ? rig.Scenes : [Usual(rig)];

    /// <summary>The scenes of a rig that can be read.</summary>
    public static IReadOnlyList<SceneNode> Read(RigDesign rig) =>
        [.. Of(rig).Select(s => SceneParser.Parse(s.Text, rig)).Where(s => s.Diagnostics.Count == 0).Select(s => s.Scene)];

    /// <summary>The scene of a rig that has none yet: its rail, a bare floor under what drives, a bench top under all else.</summary>
    public static SceneText Usual(RigDesign rig) =>
        Made(
            rig.Rail is { } rail && rig.Vehicle is not null ? RailScene(rig, rail)
                : rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.Steered) is { } drive
                    ? $"scene Bare floor\n\nfloor 2 m by 1.5 m{Floor(rig)}\n\n"
                        + $"start {drive.Name} at (300, 300) facing 0 robot deg give or take 5 mm and 2 robot deg\n"
                : "scene Bench top\n",
            rig
        );

    // A surface that its eyes know, so that it can be run at once.
    private static string Floor(RigDesign rig)
    {
        var zone = rig.Eyes.Where(e => e.Mount.Facing == Facing.Down).SelectMany(e => e.Zones.Take(1)).FirstOrDefault();
        return zone is null ? "" : $" of {zone}";
    }

    /// <summary>A scene with the places and things that it makes.</summary>
    public static SceneText Made(string text, RigDesign rig)
    {
        var scene = SceneParser.Parse(text, rig).Scene;
        return new(text)
        {
            Places = SceneWords.Places(scene).ToSequence(),
            Things = SceneWords.Things(scene).SelectMany(t => new[] { t, SceneWords.Several(t) }).ToSequence(),
        };
    }

    /// <summary>The rail of a design as it was kept before scenes: nothing of it is lost.</summary>
    public static string RailScene(RigDesign rig, Rail rail)
    {
        var lines = new List<string> { "scene The rail", "", $"rail {N(rail.LengthMm)} mm of {rail.Ground}, closed" };
        foreach (var m in rail.Markers)
            lines.Add($"marker {m.Name} of {m.Surface} {N(m.LengthMm.Value)} mm{Spread(m.LengthMm)} at {N(m.AtMm)} mm");
        if (rig.Starts.FirstOrDefault() is { } start && rig.Vehicle is { } vehicle)
        {
            var sd = Math.Sqrt(start.AtMm.BetweenRunsSd * start.AtMm.BetweenRunsSd + start.AtMm.MoveSd * start.AtMm.MoveSd);
            lines.Add("");
            lines.Add($"start {vehicle.Name} at {N(start.AtMm.Value)} mm{(sd > 0 ? $" give or take {N(sd)} mm" : "")}");
        }
        // Surfaces that no eye knows were said with the rail.
        var painted = new List<string>();
        foreach (var s in rail.Surfaces)
        foreach (var eye in rig.Eyes.Where(e => !e.Zones.Contains(s.Name)))
            painted.Add($"surface {s.Name} reads {N(s.Reads.Value)} %{Spread(s.Reads)} on {eye.Name}");
        if (painted.Count > 0)
            lines.InsertRange(3, ["", .. painted, ""]);
        return string.Join('\n', lines) + "\n";
    }

    private static string Spread(Quantity q) => q.BetweenRunsSd > 0 ? $" give or take {N(q.BetweenRunsSd)} {q.Unit}" : "";

    /// <summary>The rail that a scene speaks of, for those who ask the design of its line; null where it has none.</summary>
    public static Rail? RailOf(SceneNode scene)
    {
        if (scene.First("rail") is not { } rail)
            return null;
        Quantity Said(SceneLine line, string slot, string unit) =>
            new(
                line.Value(slot) ?? 0,
                unit,
                Provenance.Chosen,
                $"line {line.Line} of the scene",
                0,
                line.Number(slot)?.GiveOrTake?.In(unit) ?? 0
            );
        return new(
            rail.Value("l") ?? 1000,
            rail.Name("of") ?? "",
            [.. scene.All("surface reads").Select(l => new Surface(l.Name("name")!, Said(l, "x", "%")))],
            [
                .. scene
                    .All("marker")
                    .Where(l => l.Name("siding") is null)
                    .OrderBy(l => l.Value("at"))
                    .Select(l => new Marker(l.Name("name")!, l.Name("of")!, l.Value("at") ?? 0, Said(l, "l", "mm"))),
            ]
        );
    }

    /// <summary>Starts for a new scene, those that suit the rig first.</summary>
    public static IReadOnlyList<SceneStart> For(RigDesign rig)
    {
        var drive = rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.Steered)?.Name;
        var put = drive is null ? "" : $"\nstart {drive} at (300, 300) facing 0 robot deg give or take 5 mm and 2 robot deg\n";
        var eye = rig.Eyes.FirstOrDefault(e => e.Mount.Facing == Facing.Down);
        var (dark, bright) = (eye?.Zones.FirstOrDefault(), eye?.Zones.LastOrDefault());
        var lift = rig.Mechanisms.FirstOrDefault(m => m.Travel is not null && m.Facts.Going == Going.Nowhere)?.Name;
        var belt = rig.Mechanisms.FirstOrDefault(m => m.Facts.RunsOn)?.Name;
        var pump = rig.Actuators.FirstOrDefault(a => a.Kind == ActuatorKind.PlainMotor && a.Turns)?.Name;
        var range = rig.Sensors.FirstOrDefault(s => s.Kind == SensorKind.Distance)?.Name;
        List<(bool Suits, SceneStart Start)> all =
        [
            (drive is not null, new("bare floor", $"scene Bare floor\n\nfloor 2 m by 1.5 m{Floor(rig)}, walls round it\n{put}")),
            (
                drive is not null,
                new("raised deck", $"scene Raised deck\n\ndeck 1200 by 800 mm{(dark is null ? "" : $" of {dark}")}\n{put}")
            ),
            (
                drive is not null && eye is not null,
                new(
                    "painted line",
                    $"scene Painted line\n\nfloor 2 m by 1.5 m{(bright is null ? "" : $" of {bright}")}\n\n"
                        + $"strip track of {dark ?? "line"} 20 mm wide from (300, 300) to "
                        + $"(1700, 300) to (1700, 1200) to (300, 1200), round 200 mm, closed\n{put}"
                )
            ),
            (
                rig.Vehicle is not null,
                new(
                    "rail",
                    $"scene Rail\n\nrail 4 m of {dark ?? "sleepers"}, closed\nmarker first of {bright ?? "tag"} 60 mm at 800 mm\n"
                        + (rig.Vehicle is { } v ? $"\nstart {v.Name} at 100 mm give or take 5 mm\n" : "")
                )
            ),
            (
                lift is not null,
                new(
                    "bench top",
                    lift is null ? "scene Bench top\n" : $"scene Bench top\n\nblock {lift} at 4 s for 1 s, in 10 of 100 runs\n"
                )
            ),
            (belt is not null, new("belt", $"scene Belt\n\nbelt {belt ?? "Belt"} 400 mm\na shell 30 mm every 4 s give or take 0.5 s\n")),
            (
                pump is not null && belt is null && drive is null,
                new(
                    "tank",
                    $"scene Tank\n\ntank basin 2 l high 200 mm, starts at 20 %\n"
                        + $"{(pump is null ? "" : $"{pump} brings 0.1 l/s at 100 %\n")}leaks 0.01 l/s\n"
                )
            ),
            (
                range is not null,
                new(
                    "berth",
                    $"scene Berth\n\nboat comes before {range ?? "Range"} from 900 mm to 60 mm at 100 mm/s at 2 s, "
                        + "stays 5 s, leaves at 100 mm/s\n"
                )
            ),
            (true, new("nothing", "scene New scene\n")),
        ];
        return [.. all.OrderByDescending(a => a.Suits).Select(a => a.Start)];
    }

    /// <summary>A scene with disturbances that somebody asks for beside it.</summary>
    /// <param name="text">The scene.</param>
    /// <param name="faults">What goes wrong.</param>
    /// <param name="endsS">How long it lasts instead; null as it says.</param>
    /// <param name="volts">What a full pack gives, V.</param>
    public static string With(string text, IReadOnlyList<Fault> faults, double? endsS, double volts)
    {
        var lines = text.TrimEnd('\n').Split('\n').ToList();
        if (endsS is { } ends)
        {
            lines.RemoveAll(l => l.StartsWith("ends after", StringComparison.Ordinal));
            lines.Insert(Math.Min(1, lines.Count), $"ends after {N(ends)} s");
        }
        foreach (var f in faults)
            lines.Add(
                (f.Kind == FaultKind.FlatBattery ? $"battery at {N(volts * 2 / 3)} V" : $"unplug {f.Device}")
                    + $" at {N(f.FromS)} s"
                    + (f.ToS is { } to ? $" for {N(to - f.FromS)} s" : "")
            );
        return string.Join('\n', lines) + "\n";
    }
}
