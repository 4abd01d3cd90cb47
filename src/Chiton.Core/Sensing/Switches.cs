using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>One time that a switch was down.</summary>
/// <param name="FromMs">When it went down, ms from the first reading.</param>
/// <param name="ForMs">How long it stayed down, ms.</param>
public sealed record Press(double FromMs, double ForMs);

/// <summary>What the readings of a switch show.</summary>
/// <param name="Zone">What was recorded.</param>
/// <param name="DownShare">Share of the readings that are down, 0 to 1.</param>
/// <param name="Presses">Presses that begin and end in the recording, bounces taken out.</param>
/// <param name="Bounces">Flickers too short to be a press.</param>
/// <param name="LongestBounceMs">The longest of them, ms.</param>
/// <param name="ReadingsNeeded">Readings in a row after which no bounce of this recording is taken for a press.</param>
public sealed record SwitchTrace(
    string Zone,
    double DownShare,
    IReadOnlyList<Press> Presses,
    int Bounces,
    double LongestBounceMs,
    int ReadingsNeeded
);

/// <summary>The readings of a switch, judged.</summary>
/// <param name="Traces">By what was recorded.</param>
/// <param name="ReadingsNeeded">Readings in a row that see through every bounce.</param>
/// <param name="LongestTapMs">The longest press that was let go; null when none was.</param>
/// <param name="HeldAfterMs">From when on a press can be called held, ms; null without a tap.</param>
/// <param name="Verdict">The whole.</param>
public sealed record SwitchJudgement(
    IReadOnlyList<SwitchTrace> Traces,
    int ReadingsNeeded,
    double? LongestTapMs,
    double? HeldAfterMs,
    Verdict Verdict
)
{
    /// <summary>Flickers up to this long are bounces, ms: longer than contacts bounce, shorter than a finger can tap.</summary>
    public const double BounceMs = 45;

    /// <summary>
    /// Judges the readings of a switch: 1 down, 0 up. A run of equal readings shorter than <see cref="BounceMs"/> is a
    /// bounce; what remains are presses. Source: contacts bounce for a few milliseconds, fingers take a tenth of a second.
    /// </summary>
    /// <param name="zones">Readings by what was recorded, in the order taken.</param>
    /// <param name="samplePeriodMs">Time between readings, ms.</param>
    /// <param name="downZone">The zone in which it is held down, or null.</param>
    /// <param name="upZone">The zone in which it is let go, or null.</param>
    public static SwitchJudgement Judge(IReadOnlyList<ZoneReadings> zones, double samplePeriodMs, string? downZone, string? upZone)
    {
        var traces = zones.Where(z => z.Readings.Count > 0).Select(z => Trace(z, samplePeriodMs)).ToArray();
        var needed = traces.Length == 0 ? 1 : traces.Max(t => t.ReadingsNeeded);
        var presses = traces.SelectMany(t => t.Presses).ToArray();
        double? longest = presses.Length == 0 ? null : presses.Max(p => p.ForMs);
        double? held = longest is { } l ? Math.Max(500, Math.Ceiling(1.5 * l / 100) * 100) : null;
        var down = traces.FirstOrDefault(t => t.Zone == downZone);
        var up = traces.FirstOrDefault(t => t.Zone == upZone);
        if (traces.Length == 0)
            return new([], 1, null, null, new(Grade.Unusable, "No readings yet: record it let go, pressed, and tapped a few times."));
        if (down is { DownShare: < 0.5 } || up is { DownShare: > 0.5 })
            return new(
                traces,
                needed,
                longest,
                held,
                new(Grade.Unusable, "Pressed and let go are the wrong way round, or it does not close: look at the switch and its lead.")
            );
        if (down is { DownShare: < 1 } worn)
            return new(
                traces,
                needed,
                longest,
                held,
                new(
                    worn.DownShare < 0.9 ? Grade.Fragile : Grade.Workable,
                    $"While held it lets go in {Show(100 * (1 - worn.DownShare), 2)} of 100 readings: a worn contact or a loose lead. "
                        + $"{Count(needed, "reading")} in a row bridge it."
                )
            );
        return new(
            traces,
            needed,
            longest,
            held,
            needed <= 1
                ? new(Grade.Solid, "It closes and opens cleanly.")
                : new(
                    needed <= 3 ? Grade.Workable : Grade.Fragile,
                    $"It bounces for up to {Show(traces.Max(t => t.LongestBounceMs))} ms: ask for {Count(needed, "reading")} in a "
                        + "row, or one tap counts as several."
                )
        );
    }

    private static SwitchTrace Trace(ZoneReadings zone, double periodMs)
    {
        var readings = zone.Readings;
        var runs = new List<(bool Down, int Start, int Length)>();
        for (var i = 0; i < readings.Count; i++)
        {
            var down = readings[i] > 0.5;
            if (runs.Count > 0 && runs[^1].Down == down)
                runs[^1] = runs[^1] with { Length = runs[^1].Length + 1 };
            else
                runs.Add((down, i, 1));
        }
        var short_ = runs.Where((r, i) => i > 0 && i < runs.Count - 1 && r.Length * periodMs < BounceMs).ToArray();
        var longest = short_.Length == 0 ? 0 : short_.Max(r => r.Length);
        // What remains once bounces are taken out: a change counts from the first reading of a run that lasts.
        var presses = new List<Press>();
        int? began = null;
        var state = runs.Count > 0 && runs[0].Down;
        foreach (var r in runs)
        {
            if (r.Length * periodMs < BounceMs || r.Down == state)
                continue;
            state = r.Down;
            if (r.Down)
                began = r.Start;
            else if (began is { } b)
            {
                presses.Add(new(b * periodMs, (r.Start - b) * periodMs));
                began = null;
            }
        }
        return new(
            zone.Zone,
            readings.Count(r => r > 0.5) / (double)readings.Count,
            presses,
            short_.Length,
            longest * periodMs,
            longest + 1
        );
    }
}
