using Chiton.Core.Quantities;

namespace Chiton.Core.Sensing;

/// <summary>Input of the sum <c>zones</c>.</summary>
/// <param name="Zones">Two zones or more, each with a name of its own and 3 readings or more.</param>
/// <param name="Resolution">Smallest difference the sensor reports, 0 or more.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="MaxFalsePerHour">False switches an hour that are bearable.</param>
public sealed record ZonesInput(
    IReadOnlyList<ReadingList>? Zones,
    double? Resolution,
    double? SamplePeriodMs,
    double? MaxFalsePerHour = null
);

/// <summary>The boundary between two neighbouring zones: a <see cref="ThresholdResult"/> with its names and verdict.</summary>
public sealed record ZoneBoundary : ThresholdResult
{
    /// <summary>A boundary from its sum.</summary>
    public ZoneBoundary(Answer<ThresholdResult> sum, string lower, string upper)
        : base(sum.Result)
    {
        Lower = lower;
        Upper = upper;
        Verdict = sum.Verdict!;
    }

    /// <summary>Zone below.</summary>
    public string Lower { get; }

    /// <summary>Zone above.</summary>
    public string Upper { get; }

    /// <summary>How far it can be relied on.</summary>
    public Verdict Verdict { get; }
}

/// <summary>Result of the sum <c>zones</c>.</summary>
/// <param name="Zones">Zones by rising mean.</param>
/// <param name="Boundaries">One fewer, by rising mean.</param>
public sealed record ZonesResult(IReadOnlyList<ListFigures> Zones, IReadOnlyList<ZoneBoundary> Boundaries);

/// <summary>The zones of one sensor and the thresholds between neighbours.</summary>
public static class ZonesSum
{
    /// <summary>Most zones of one sensor.</summary>
    public const int MostZones = 50;

    /// <summary>Computes the sum: <see cref="ThresholdSum"/> for each two neighbours, by equal risk.</summary>
    /// <exception cref="InputProblem">When a field is missing, not finite, out of range or contradictory.</exception>
    public static Answer<ZonesResult> Compute(ZonesInput input)
    {
        var need = new Require();
        need.Number(input.SamplePeriodMs, "samplePeriodMs", 0, 1e7, aboveMin: true);
        need.Number(input.Resolution ?? 0, "resolution", 0, 1e9);
        need.Number(input.MaxFalsePerHour ?? 1, "maxFalsePerHour", 0, 1e9, aboveMin: true);
        var zones = input.Zones ?? [];
        need.That(zones.Count >= 2, "zones", "Give two zones or more.");
        need.That(zones.Count <= MostZones, "zones", $"At most {MostZones} zones.");
        var names = new HashSet<string>();
        for (var i = 0; i < Math.Min(zones.Count, MostZones); i++)
        {
            var at = $"zones[{i}]";
            need.That(!string.IsNullOrWhiteSpace(zones[i]?.Name), $"{at}.name", "Give the zone a name.");
            if (zones[i]?.Name is { } name)
                need.That(names.Add(name), $"{at}.name", $"There are two zones called “{name}”.");
            var readings = zones[i]?.Readings;
            need.That(readings is { Count: >= 3 }, $"{at}.readings", "Give at least 3 readings.");
            var bad = readings is null ? -1 : Enumerable.Range(0, readings.Count).FirstOrDefault(k => !double.IsFinite(readings[k]), -1);
            need.That(bad < 0, $"{at}.readings[{bad}]", "Must be a finite number.");
        }
        need.Done();
        var sorted = zones.OrderBy(z => z.Readings!.Average()).ToArray();
        var boundaries = new List<ZoneBoundary>();
        var figures = new List<ListFigures>();
        var steps = new List<Step>();
        var cautions = new List<string>();
        for (var i = 0; i + 1 < sorted.Length; i++)
        {
            var sum = ThresholdSum.Compute(new([sorted[i], sorted[i + 1]], input.Resolution, input.SamplePeriodMs, input.MaxFalsePerHour));
            var boundary = new ZoneBoundary(sum, sorted[i].Name!, sorted[i + 1].Name!);
            // Two zones with one mean may come back in either order; the figures follow the names.
            ListFigures Of(string name) => boundary.Lists.First(l => l.Name == name);
            if (i == 0)
                figures.Add(Of(boundary.Lower));
            figures.Add(Of(boundary.Upper));
            boundaries.Add(boundary);
            steps.AddRange(sum.Steps.Select(s => s with { Say = $"{boundary.Lower} against {boundary.Upper}: {s.Say}" }));
            cautions.AddRange(sum.Cautions);
        }
        var worst = boundaries.MaxBy(b => b.Verdict.Grade)!;
        return new(
            new(figures, boundaries),
            steps,
            cautions,
            new(worst.Verdict.Grade, $"{worst.Lower} against {worst.Upper}: {worst.Verdict.Say}")
        );
    }
}
