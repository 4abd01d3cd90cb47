using Chiton.Core.Logbook;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Outside;
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
                        rec?.TimesMicros is null
                            || rec.TimesMicros.Count == (rec.Readings?.Count ?? 0) / sensor.Facts.Width
                                && rec.TimesMicros.All(t => t is >= 0 and <= BoxLine.LatestMicros)
                                && rec.TimesMicros.Zip(rec.TimesMicros.Skip(1)).All(p => p.First <= p.Second),
                        $"{at}.recordings[{r}].timesMicros",
                        "One time for each reading, in microseconds, none earlier than the one before."
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
                    t is { Told: null or { Length: <= 1000 } }
                    && Figure(t.Asked)
                    && Figure(t.Commanded)
                    && Figure(t.Measured)
                    && (t.Who?.Length ?? 0) <= 80
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

    private const int MostEarlier = 500,
        MostRuns = 100_000;

    /// <summary>Checks a log.</summary>
    /// <param name="log">The log.</param>
    /// <param name="copies">The copies of the rig; they were checked.</param>
    /// <exception cref="InputProblem">Names each field that is wrong.</exception>
    public static void Check(FileLog log, IReadOnlyList<FileCopy> copies)
    {
        var need = new Require();
        IReadOnlyList<FileRevision> earlier = log.Earlier ?? [];
        IReadOnlyList<FileSeries> series = log.Series ?? [];
        IReadOnlyList<LogEntry> runs = log.Runs ?? [];
        IReadOnlyList<FileSend> sends = log.Sends ?? [];
        need.That(log.Revision >= 1, "log.revision", "Revisions are numbered from 1.");
        need.That(earlier.Count <= MostEarlier, "log.earlier", $"At most {MostEarlier} earlier revisions.");
        need.That(runs.Count <= MostRuns, "log.runs", $"At most {MostRuns} runs.");
        need.That(series.Count <= MostRuns, "log.series", $"At most {MostRuns} series.");
        need.That(sends.Count <= MostRuns, "log.sends", $"At most {MostRuns} sends.");
        need.Done();
        var there = new HashSet<int> { log.Revision };
        for (var i = 0; i < earlier.Count; i++)
        {
            var e = earlier[i];
            need.That(
                e is not null && e.Number >= 1 && e.Number < log.Revision && there.Add(e.Number),
                $"log.earlier[{i}].number",
                $"Earlier revisions are numbered from 1 to {log.Revision - 1}, each differently."
            );
            need.That(e?.Design is not null, $"log.earlier[{i}].design", "Give the design as it was then.");
            need.That(e?.What is null || e.What.Length <= 500, $"log.earlier[{i}].what", "At most 500 characters.");
        }
        var numbers = copies.Select(c => c.Number).ToHashSet();
        void Copy(int copy, string at) => need.That(numbers.Contains(copy), $"{at}.copy", $"There is no copy {copy}.");
        void Time(DateTime time, string at) =>
            need.That(time.Year is >= 2000 and < 3000, $"{at}.timeUtc", "Must be a time, UTC, from the year 2000 on.");
        void Revision(int revision, string at) =>
            need.That(there.Contains(revision), $"{at}.revision", $"There is no revision {revision} in this file.");
        void Text(string? text, string at, int most) => need.That(text is null || text.Length <= most, at, $"At most {most} characters.");
        void Key(string? key, HashSet<string> all, string at) =>
            need.That(LogTable.IsKey(key) && all.Add(key!), $"{at}.key", "Must be 8 to 64 letters, digits and hyphens, each differently.");
        var keys = new HashSet<string>();
        for (var i = 0; i < series.Count; i++)
        {
            var at = $"log.series[{i}]";
            if (series[i] is not { } s)
            {
                need.That(false, at, "Give a series.");
                continue;
            }
            Key(s.Key, keys, at);
            Copy(s.Copy, at);
            Time(s.TimeUtc, at);
            need.That(s.Planned is >= 0 and <= 500, $"{at}.planned", "Must be a whole number from 0 to 500.");
            foreach (
                var (name, text) in new[] { ("scene", s.Scene), ("light", s.Light), ("pack", s.Pack), ("floor", s.Floor), ("who", s.Who) }
            )
                Text(text, $"{at}.{name}", 100);
        }
        keys = [];
        for (var i = 0; i < runs.Count; i++)
        {
            var at = $"log.runs[{i}]";
            if (runs[i] is not { } r)
            {
                need.That(false, at, "Give a run.");
                continue;
            }
            Key(r.Key, keys, at);
            Copy(r.Copy, at);
            Revision(r.Revision, at);
            Time(r.TimeUtc, at);
            need.Optional(r.TimeS, $"{at}.timeS", 0, 3600, aboveMin: true);
            need.That(!r.Passed || string.IsNullOrEmpty(r.Goal + r.Cause), $"{at}.cause", "A run that passed has no cause.");
            foreach (
                var (name, text, most) in new[]
                {
                    ("goal", r.Goal, 300),
                    ("cause", r.Cause, 500),
                    ("note", r.Note, 1000),
                    ("series", r.Series, 100),
                    ("light", r.Light, 100),
                    ("pack", r.Pack, 100),
                    ("floor", r.Floor, 100),
                    ("who", r.Who, 100),
                }
            )
                Text(text, $"{at}.{name}", most);
            need.That(
                r.Measured is null
                    || r.Measured.Count <= 20
                        && r.Measured.All(m => m is { What.Length: > 0 and <= 60, Unit.Length: <= 20 } && Math.Abs(m.Value) <= 1e9),
                $"{at}.measured",
                "At most 20 finite numbers, each with a name of at most 60 characters."
            );
        }
        for (var i = 0; i < sends.Count; i++)
        {
            var at = $"log.sends[{i}]";
            if (sends[i] is not { } s)
            {
                need.That(false, at, "Give what was sent.");
                continue;
            }
            Copy(s.Copy, at);
            Revision(s.Revision, at);
            Time(s.TimeUtc, at);
        }
        need.Done();
        for (var i = 0; i < earlier.Count; i++)
            RigRules.Check(earlier[i].Design!, $"log.earlier[{i}].design");
    }
}
