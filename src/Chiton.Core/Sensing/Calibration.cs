using Chiton.Core.Quantities;

namespace Chiton.Core.Sensing;

/// <summary>How a set of readings came in.</summary>
public enum ReadingOrigin
{
    /// <summary>Recorded from the simulated controller.</summary>
    Recorded,

    /// <summary>Pasted or typed.</summary>
    Pasted,

    /// <summary>Read from a CSV file.</summary>
    Csv,

    /// <summary>Over the line, from a real thing.</summary>
    Line,

    /// <summary>Over the line, from a box that stands in for one.</summary>
    Box,
}

/// <summary>What a zone looks like in readings.</summary>
/// <param name="Zone">Zone name.</param>
/// <param name="Readings">All its readings in the order they were taken.</param>
public sealed record ZoneReadings(string Zone, IReadOnlyList<double> Readings)
{
    /// <summary>True when they were taken one after the other in the sensor's own time; false for typed and pasted ones, of which nobody
    /// knows how long they took: they have no drift a minute.</summary>
    public bool Timed { get; init; } = true;
}

/// <summary>A reading that is left out of a zone, and why. Every reading of that value in that zone is.</summary>
/// <param name="Zone">Zone name.</param>
/// <param name="Value">The value.</param>
/// <param name="Reason">Why, in words; never empty.</param>
public sealed record SetAsideReading(string Zone, double Value, string Reason);

/// <summary>That readings will be taken while rolling, and how much more they tremble then.</summary>
/// <param name="SpeedMmPerS">How fast, mm/s, above 0.</param>
/// <param name="Tremble">What comes on top of the spread at rest, % of the reading for each m/s, SD.</param>
public sealed record Rolling(double SpeedMmPerS, Quantity Tremble)
{
    /// <summary>True when nobody said how fast it rolls, and a usual speed stands for it.</summary>
    public bool UsualSpeed { get; init; }

    /// <summary>What comes on top of the spread at rest, SD in the unit of the reading.</summary>
    /// <param name="mean">Mean reading.</param>
    public double Shake(double mean) => Tremble.Value / 100 * SpeedMmPerS / 1000 * Math.Abs(mean);
}

/// <summary>The calibration of one sensor on one copy: readings by zone, and the choices made about them.</summary>
/// <param name="Sensor">Sensor name.</param>
/// <param name="SamplePeriodMs">Time between readings, ms.</param>
/// <param name="Resolution">Smallest difference the sensor reports, %.</param>
/// <param name="MaxFalsePerHour">False switches an hour that are bearable.</param>
/// <param name="School">Where thresholds are put.</param>
/// <param name="CostRatio">Harm of a false rise over harm of a false fall, for the school <see cref="School.Cost"/>.</param>
/// <param name="Zones">Readings of each zone, in the order the zones were made.</param>
public sealed record SensorCalibration(
    string Sensor,
    double SamplePeriodMs,
    double Resolution,
    double MaxFalsePerHour,
    School School,
    double CostRatio,
    IReadOnlyList<ZoneReadings> Zones
)
{
    /// <summary>Unit of the readings.</summary>
    public string Unit { get; init; } = "%";

    /// <summary>Where its readings were taken, in words: on the table or on the stand-in.</summary>
    public string Where { get; init; } = "on this copy";

    /// <summary>Least reading the sensor can report.</summary>
    public double Low { get; init; }

    /// <summary>Greatest reading the sensor can report.</summary>
    public double High { get; init; } = 100;

    /// <summary>How its readings will be taken; null at rest.</summary>
    public Rolling? Rolling { get; init; }

    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<SensorCalibration, SensorCalibration> Rolled = [];

    /// <summary>The same for readings that are taken while rolling; worked out once where the speed stays the same.</summary>
    /// <param name="rolling">How fast, and how much they tremble; null at rest.</param>
    public SensorCalibration At(Rolling? rolling)
    {
        if (Equals(rolling, Rolling))
            return this;
        if (Rolled.TryGetValue(this, out var made) && Equals(made.Rolling, rolling))
            return made;
        made = this with { Rolling = rolling };
        Rolled.AddOrUpdate(this, made);
        return made;
    }

    /// <summary>Readings left out, with their reasons. They stay in <see cref="Zones"/>, so that they can be shown and taken
    /// back.</summary>
    public IReadOnlyList<SetAsideReading> SetAside { get; init; } = [];

    /// <summary>The readings of a zone that count.</summary>
    public IReadOnlyList<double> Kept(string zone)
    {
        var aside = SetAside.Where(s => s.Zone == zone).Select(s => s.Value).ToHashSet();
        var readings = Zones.FirstOrDefault(z => z.Zone == zone)?.Readings ?? [];
        return aside.Count == 0 ? readings : [.. readings.Where(r => !aside.Contains(r))];
    }

    /// <summary>
    /// The boundaries between neighbouring zones by rising mean, each a <see cref="ThresholdSum"/>. Zones with fewer than
    /// 3 readings are left out: nothing can be said of them yet.
    /// </summary>
    public IReadOnlyList<ZonePair> Pairs() => Work.Pairs;

    private Known Work => Worked.GetValue(this, c => new(c.WorkPairs(), z => c.Reads(z)?.Value ?? double.NaN));

    // What was worked out once for a calibration; another version is another object.
    private sealed record Known(IReadOnlyList<ZonePair> Pairs, Func<string, double> Mean)
    {
        public Lazy<ZoneScale?> Scale { get; } = new(() => WorkScale(Pairs, Mean));
    }

    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<SensorCalibration, Known> Worked = [];

    private List<ZonePair> WorkPairs()
    {
        var ready = Zones
            .Select(z => z with { Readings = Kept(z.Zone) })
            .Where(z => z.Readings.Count >= 3)
            .OrderBy(z => z.Readings.Average())
            .ToArray();
        var pairs = new List<ZonePair>();
        for (var i = 0; i + 1 < ready.Length; i++)
        {
            ThresholdInput With(School school) =>
                new(
                    [
                        new(ready[i].Zone, ready[i].Readings) { Timed = ready[i].Timed },
                        new(ready[i + 1].Zone, ready[i + 1].Readings) { Timed = ready[i + 1].Timed },
                    ],
                    Resolution,
                    SamplePeriodMs,
                    MaxFalsePerHour,
                    ThresholdSum.NameOf(school),
                    CostRatio
                );
            Answer<ThresholdResult>? chosen = null;
            string? fallback = null;
            try
            {
                chosen = ThresholdSum.Compute(With(School));
            }
            catch (InputProblem) when (School == School.MidGap)
            {
                // The gap can close when readings are added; the choice is kept and the sum says what stands in for it.
                chosen = ThresholdSum.Compute(With(School.EqualRisk));
                fallback = "There is no gap between these readings any more, so equal risk stands in for the middle of the gap.";
            }
            double Shake(int list) => Rolling?.Shake(chosen.Result.Lists[list].Mean) ?? 0;
            var taken = new TakenReadings(
                ready[i].Readings,
                ready[i + 1].Readings,
                Shake(0),
                Shake(1),
                Resolution,
                SamplePeriodMs,
                MaxFalsePerHour
            );
            var rolled = Rolling is null ? chosen : ThresholdSum.Rolling(chosen, taken);
            var (intoLower, intoUpper) = ThresholdSum.OneWay(chosen.Result, taken);
            pairs.Add(
                new(ready[i].Zone, ready[i + 1].Zone, rolled, fallback)
                {
                    Still = chosen,
                    IntoLower = intoLower,
                    IntoUpper = intoUpper,
                }
            );
        }
        return pairs;
    }

    /// <summary>
    /// The zones ready for use in a program; null while fewer than two have readings, or where two thresholds coincide.
    /// </summary>
    public ZoneScale? Scale() => Work.Scale.Value;

    private static ZoneScale? WorkScale(IReadOnlyList<ZonePair> pairs, Func<string, double> mean)
    {
        if (pairs.Count == 0)
            return null;
        for (var i = 1; i < pairs.Count; i++)
            if (pairs[i].Sum.Result.Threshold <= pairs[i - 1].Sum.Result.Threshold)
                return null;
        string[] names = [pairs[0].Lower, .. pairs.Select(p => p.Upper)];
        return new ZoneScale(
            names,
            [.. pairs.Select(p => new Boundary(p.Sum.Result.Threshold, p.Sum.Result.Hysteresis))],
            [.. names.Select(mean)]
        );
    }

    /// <summary>Mean and SD of a zone as a measured number; null with fewer than 3 readings.</summary>
    public Quantity? Reads(string zone)
    {
        var readings = Kept(zone);
        if (readings.Count < 3)
            return null;
        var floor = Resolution / Math.Sqrt(12);
        var figures = ThresholdSum.Describe(zone, [.. readings], SamplePeriodMs, floor, 0);
        var sd = Math.Max(figures.Sd, floor);
        return new(
            figures.Mean,
            Unit,
            Provenance.Measured,
            $"{readings.Count} readings {Where}",
            sd / Math.Sqrt(readings.Count),
            sd,
            0,
            Low,
            High
        )
        {
            Dof = readings.Count - 1,
        };
    }
}

/// <summary>Two neighbouring zones and the threshold between them.</summary>
/// <param name="Lower">Zone with the lower mean.</param>
/// <param name="Upper">Zone with the higher mean.</param>
/// <param name="Sum">The threshold by the chosen school, with its steps and verdict: of readings as they will be taken, at rest or
/// rolling.</param>
/// <param name="Fallback">Why another school stands in for the chosen one; null when none does.</param>
public sealed record ZonePair(string Lower, string Upper, Answer<ThresholdResult> Sum, string? Fallback)
{
    /// <summary>The same for readings at rest; the sum itself where they are taken so.</summary>
    public Answer<ThresholdResult> Still { get; init; } = Sum;

    /// <summary>Readings in a row to come into the lower zone by, from over the upper one; null where none can be promised. Of both ways
    /// the greater is what the sum asks for.</summary>
    public int? IntoLower { get; init; }

    /// <summary>The same into the upper zone.</summary>
    public int? IntoUpper { get; init; }
}
