using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Data;

/// <summary>What the copies in a rig file must be, whoever wrote it.</summary>
public static class RigFileRules
{
    /// <summary>Checks copies.</summary>
    /// <param name="design">The design that they are copies of; it was checked.</param>
    /// <param name="copies">The copies.</param>
    /// <exception cref="InputProblem">Names each field that is wrong.</exception>
    public static void Check(RigDesign design, IReadOnlyList<FileCopy> copies)
    {
        var need = new Require();
        need.That(copies.Count <= CopyStore.MostCopies, "copies", $"A rig has at most {CopyStore.MostCopies} copies.");
        for (var i = 0; i < Math.Min(copies.Count, CopyStore.MostCopies); i++)
        {
            var c = copies[i];
            if (c is null)
            {
                need.That(false, $"copies[{i}]", "Give a copy.");
                continue;
            }
            need.That(
                c.Number >= 1 && copies.Count(o => o?.Number == c.Number) == 1,
                $"copies[{i}].number",
                "Copies are numbered from 1, each differently."
            );
            need.That(c.Team is null || c.Team.Length <= 40, $"copies[{i}].team", "At most 40 characters.");
            need.That(c.Unit is null || c.Unit.Length <= 40, $"copies[{i}].unit", "At most 40 characters.");
            if (c.Motion is { } motion)
                foreach (var (name, number) in motion.Named)
                    need.That(
                        number is not null
                            && double.IsFinite(number.Value)
                            && number.MeanSd >= 0
                            && number.MoveSd >= 0
                            && number.Source is not null
                            && number.Unit is not null,
                        $"copies[{i}].motion",
                        $"“{name}” must be a whole quantity with finite figures."
                    );
            var readers = design.Sensors.ToDictionary(s => s.Name);
            for (var k = 0; k < (c.Calibrations?.Count ?? 0); k++)
            {
                var cal = c.Calibrations![k];
                var at = $"copies[{i}].calibrations[{k}]";
                if (cal?.Sensor is null || !readers.TryGetValue(cal.Sensor, out var sensor))
                {
                    need.That(false, $"{at}.sensor", $"There is no sensor “{cal?.Sensor}”.");
                    continue;
                }
                need.That(c.Calibrations.Count(o => o?.Sensor == cal.Sensor) == 1, $"{at}.sensor", "One calibration a sensor.");
                need.Number(cal.CostRatio, $"{at}.costRatio", 0, 1e6, true);
                need.Number(cal.MaxFalsePerHour, $"{at}.maxFalsePerHour", 0, 1e6, true);
                for (var r = 0; r < (cal.Recordings?.Count ?? 0); r++)
                {
                    var rec = cal.Recordings![r];
                    // Zones that were renamed since keep their old recordings; those of an unknown zone sleep.
                    need.That(rec?.Zone is { Length: > 0 and <= 60 }, $"{at}.recordings[{r}].zone", "Name the zone.");
                    need.That(
                        rec?.Readings is { Count: <= ThresholdSum.MostPerList * 3 } values
                            && values.All(v => double.IsFinite(v) && v >= sensor.Facts.From && v <= sensor.Facts.To)
                            && values.Count % sensor.Facts.Width == 0,
                        $"{at}.recordings[{r}].readings",
                        $"Readings lie between {Figures.Show(sensor.Facts.From)} and "
                            + $"{Figures.Show(sensor.Facts.To)}{(sensor.Facts.Width == 3 ? ", three numbers each" : "")}."
                    );
                    need.That(
                        (rec?.Who?.Length ?? 0) <= 80 && (rec?.Conditions?.Length ?? 0) <= 200 && (rec?.Mode?.Length ?? 0) <= 80,
                        $"{at}.recordings[{r}]",
                        "Who has at most 80, conditions 200 and mode 80 characters."
                    );
                }
            }
            Moves(need, design, c, $"copies[{i}]");
        }
        need.Done();
    }

    // Trials and positions of a copy in a file.
    private static void Moves(Require need, RigDesign design, FileCopy c, string copy)
    {
        var plans = TrialCatalogue
            .For(design, c.Motion, (c.Motions ?? []).Select(m => m?.Motion).OfType<string>())
            .Select(p => p.Key)
            .ToHashSet();
        static bool Figure(double? value) => value is null || double.IsFinite(value.Value) && Math.Abs(value.Value) <= 1e9;
        for (var k = 0; k < (c.Motions?.Count ?? 0); k++)
        {
            var at = $"{copy}.motions[{k}]";
            if (c.Motions![k] is not { Motion: { } key } m || !plans.Contains(key))
            {
                need.That(false, $"{at}.motion", $"There is no motion “{c.Motions[k]?.Motion}” to try on this rig.");
                continue;
            }
            need.That(c.Motions.Count(o => o?.Motion == key) == 1, $"{at}.motion", "One entry a motion.");
            need.That((m.Trials?.Count ?? 0) <= TrialEntry.MostTrials, $"{at}.trials", $"At most {TrialEntry.MostTrials} trials.");
            need.That(
                (m.Trials ?? []).All(t =>
                    t is not null && Figure(t.Asked) && Figure(t.Commanded) && Figure(t.Measured) && (t.Who?.Length ?? 0) <= 80
                ),
                $"{at}.trials",
                "A trial says asked, commanded and measured, finite numbers."
            );
            need.That(
                m.Accepted is not { } a
                    || new double?[] { a.Value, a.MeanSd, a.MoveSd, a.For, a.Second, a.SecondSd, a.SecondMoveSd, a.Against }.All(Figure)
                        && a.Trials >= 0
                        && a.MeanSd >= 0
                        && a.MoveSd >= 0,
                $"{at}.accepted",
                "An accepted number has finite figures and spreads of at least 0."
            );
        }
        for (var k = 0; k < (c.Positions?.Count ?? 0); k++)
        {
            var (at, p) = ($"{copy}.positions[{k}]", c.Positions![k]);
            need.That(
                p is not null && design.Mechanisms.Any(m => m.Name == p.Mechanism),
                $"{at}.mechanism",
                $"There is no mechanism “{p?.Mechanism}”."
            );
            need.That(p?.Position is { Length: > 0 and <= 60 }, $"{at}.position", "Name the position.");
            need.That(
                (p?.Angles?.Count ?? 0) <= TrialEntry.MostTrials && (p?.Angles ?? []).All(a => double.IsFinite(a) && Math.Abs(a) <= 1e6),
                $"{at}.angles",
                $"At most {TrialEntry.MostTrials} finite angles."
            );
            need.That(
                (p?.Who?.Length ?? 0) <= 80 && (p?.Conditions?.Length ?? 0) <= 200,
                at,
                "Who has at most 80 and conditions 200 characters."
            );
        }
    }
}
