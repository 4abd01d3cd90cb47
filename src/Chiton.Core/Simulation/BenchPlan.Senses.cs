using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.Ground;
using Chiton.Core.Simulation.Scenes;
using Chiton.Core.Simulation.Senses;

namespace Chiton.Core.Simulation;

public sealed partial class BenchPlan
{
    private sealed partial class Builder
    {
        private readonly List<SenseSpec> senses = [];

        private void Senses()
        {
            HashSet<int> carried = [.. plan.Things.Where(t => t.Carrier >= 0).Select(t => t.Carrier)];
            for (var r = 0; r < rigs.Count; r++)
                foreach (var sensor in rigs[r].Copy.Rig.Sensors)
                    Sense(r, rigs[r].Copy, sensor, carried);
            Marks(scene, plan.Layout);
            foreach (var n in plan.Layout.Notches)
                (senses[n.Sense].Way, senses[n.Sense].Axis) = (SenseWay.Notch, n.Axis);
            foreach (var line in scene.All("closes"))
            {
                var sense = senses[SenseOf(line, "switch")];
                (sense.Way, sense.Axis) = (SenseWay.End, AxisOf(line, "mech"));
                if (line.Has("between"))
                    (sense.SwitchAbove, sense.SwitchBelow) = (
                        Draw(line, "x", $"where {sense.Name} closes"),
                        Draw(line, "y", $"where {sense.Name} opens again")
                    );
                else if (line.Has("above"))
                    (sense.SwitchHigh, sense.SwitchLow) = (Draw(line, "x", $"where {sense.Name} closes"), -1);
                else
                    (sense.SwitchLow, sense.SwitchHigh) = (Draw(line, "x", $"where {sense.Name} closes"), -1);
            }
            for (var v = 0; v < vehicles.Count; v++)
                vehicles[v].Eye = senses.FindIndex(s => s.Way == SenseWay.Rail && s.Vehicle == v);
            plan.Senses = [.. senses];
        }

        private int SenseOf(SceneLine line, string slot)
        {
            var name = line.Name(slot)!;
            var at = senses.FindIndex(s => s.Name == name);
            return at >= 0 ? at : throw Problem(line, $"There is no sensor “{name}”.");
        }

        // Marks are seen by what reads light or colour.
        private int EyeOf(SceneLine line)
        {
            var at = SenseOf(line, "eye");
            return senses[at].IsSwitch || senses[at].Kind == SensorKind.Distance
                ? throw Problem(line, $"{senses[at].Name} sees no marks: name an eye that reads light or colour.")
                : at;
        }

        private void Sense(int r, BenchCopy copy, Sensor sensor, HashSet<int> carried)
        {
            var name = In(r, sensor.Name);
            var calibration = copy.Calibrations.GetValueOrDefault(sensor.Name);
            var s = new SenseSpec
            {
                Name = name,
                Rig = r,
                Kind = sensor.Kind,
                PeriodMicros = Math.Max(500, (long)Math.Round(sensor.SamplePeriodMs * 1000)),
                DelayMicros = (long)Math.Round(sensor.DelayMs * 1000),
                Resolution = sensor.Resolution,
                Low = sensor.Facts.From,
                High = sensor.Facts.To,
                IsSwitch = sensor.Facts.View == "switch",
                IsColour = sensor.Facts.View is "colours" or "names",
                Bounces = sensor.Kind == SensorKind.Touch,
                Zones = sensor.Zones.ToArray(),
                Noise = Simulation.Draws.Hash(In(r, $"noise of {sensor.Name}")),
            };
            Mount(r, sensor, s);
            s.Way = Way(r, copy.Rig, sensor, s, carried);
            if (!s.IsSwitch)
                Reads(r, copy, sensor, s, calibration);
            if (sensor.Kind == SensorKind.Distance)
                Ranging(r, copy.Rig, sensor, s, calibration);
            senses.Add(s);
        }

        private void Mount(int r, Sensor sensor, SenseSpec s)
        {
            // Where it says what it is on, it rides there; else on the first of the rig that goes anywhere.
            var on = In(r, sensor.On ?? "");
            s.Drive = drives.FindIndex(d => d.Rig == r && (d.Name == on || d.Names.Contains(on)));
            if (s.Drive < 0)
                s.Drive = drives.FindIndex(d => d.Rig == r);
            s.Vehicle = vehicles.FindIndex(v => v.Rig == r && (v.Name == on || movers[v.Mover].Motor == on));
            if (s.Vehicle < 0)
                s.Vehicle = vehicles.FindIndex(v => v.Rig == r);
            s.HeightMm = sensor.Mount.HeightMm?.Value ?? 0;
            s.FacingRad = sensor.Mount.Facing switch
            {
                Facing.Right => Math.PI / 2,
                Facing.Back => Math.PI,
                Facing.Left => -Math.PI / 2,
                _ => 0,
            };
            var looks = sensor.Facts.SeesLight || sensor.Kind is SensorKind.Colour or SensorKind.ColourName;
            if (looks || sensor.Kind is SensorKind.Distance or SensorKind.LightGate or SensorKind.Probe)
            {
                s.Ahead = Draw(
                    r,
                    $"{sensor.Name} ahead",
                    sensor.AheadMm with
                    {
                        Min = double.MinValue,
                    },
                    Ruler(r, sensor.Name, sensor.AheadMm)
                );
                s.Right = sensor.Mount.RightMm is { } right
                    ? Draw(r, $"{sensor.Name} to the right", right with { Min = double.MinValue }, Ruler(r, sensor.Name, right))
                    : Fixed(In(r, $"{sensor.Name} to the right"), 0, "mm");
            }
            if (looks)
                s.Spot = Draw(r, $"spot of {sensor.Name}", sensor.Spot, Ruler(r, sensor.Name, sensor.Spot));
        }

        private SenseWay Way(int r, RigDesign rig, Sensor sensor, SenseSpec s, HashSet<int> carried)
        {
            int On() =>
                axes.FindIndex(a => a.Rig == r && (a.Name == In(r, sensor.On ?? "") || movers[a.Mover].Motor == In(r, sensor.On ?? "")));
            bool rolls = rig.Mechanisms.Any(m =>
                m.Facts.Going == Going.Steered && (m.Name == sensor.On || m.Motors.Contains(sensor.On ?? ""))
            );
            // In jaws, or on what carries, it feels what they hold.
            bool Holds()
            {
                if (On() is not (>= 0 and var at) || !axes[at].Grips && !axes[at].Forks && !carried.Contains(at))
                    return false;
                s.Axis = at;
                return true;
            }
            bool rails = rig.Mechanisms.Any(m =>
                m.Facts.Going == Going.OnRail && (m.Name == sensor.On || m.Motors.Contains(sensor.On ?? ""))
            );
            switch (sensor.Kind)
            {
                case SensorKind.Button:
                    return SenseWay.Button;
                case SensorKind.Touch:
                    if (rig.Mechanisms.FirstOrDefault(m => m.Travel?.HomeSensor == sensor.Name) is { } home)
                    {
                        s.Axis = axes.FindIndex(a => a.Name == In(r, home.Name));
                        if (s.Axis < 0)
                            return SenseWay.Button;
                        // A switch closes a little before the end that it tells, and is down where the part was found standing there.
                        var (low, high) = (
                            Math.Min(home.Travel!.From.Value, home.Travel.To.Value),
                            Math.Max(home.Travel.From.Value, home.Travel.To.Value)
                        );
                        var near = axes[s.Axis].Positions.Values;
                        if (axes[s.Axis].HomeSide < 0)
                            s.SwitchLow = Guess(
                                r,
                                $"where {sensor.Name} closes",
                                near.Where(p => p - low < 10).Append(low).Max() + 4,
                                "motor deg",
                                4,
                                double.MinValue
                            );
                        else
                            s.SwitchHigh = Guess(
                                r,
                                $"where {sensor.Name} closes",
                                near.Where(p => high - p < 10).Append(high).Min() - 4,
                                "motor deg",
                                4,
                                double.MinValue
                            );
                        return SenseWay.End;
                    }
                    if (rolls || rails)
                        return SenseWay.Bumper;
                    if (plan.Belt is { } belt && On() == belt.Axis)
                        return SenseWay.Gate;
                    return Holds() ? SenseWay.Load : SenseWay.Button;
                case SensorKind.LightGate:
                    return Holds() ? SenseWay.Load
                        : plan.Belt is not null ? SenseWay.Gate
                        : SenseWay.Button;
                case SensorKind.ClickEncoder:
                    s.Axis = On();
                    s.Drive = rolls ? s.Drive : -1;
                    s.ClicksPerUnit = (sensor.ClicksPerTurn ?? 4) / 360;
                    return SenseWay.Clicks;
                case SensorKind.Encoder:
                    s.Axis = On();
                    return SenseWay.Turns;
                case SensorKind.Distance:
                    return SenseWay.Range;
                case SensorKind.Force:
                    s.Axis = On();
                    if (s.Axis < 0)
                        s.Axis = axes.FindIndex(a => a.Rig == r && a.Grips);
                    return SenseWay.Force;
                case SensorKind.Probe:
                    return plan.Tank is not null ? SenseWay.Probe : SenseWay.Nothing;
                case SensorKind.Sound:
                    return SenseWay.Sound;
                default:
                    if (sensor.Mount.Facing == Facing.Up || sensor.Kind == SensorKind.AmbientLight)
                        return SenseWay.Nothing;
                    if (plan.Belt is not null && s.Drive < 0)
                        return SenseWay.Belt;
                    if (plan.Layout.Lines.Length > 0 && s.Vehicle >= 0)
                        return SenseWay.Rail;
                    return s.Drive < 0 ? SenseWay.Nothing
                        : sensor.Mount.Facing != Facing.Down ? SenseWay.Faced
                        : plan.Layout.FloorW > 0 || plan.Layout.Paints.Length > 0 ? SenseWay.Ground
                        : SenseWay.Nothing;
            }
        }

        // What it reads over each surface: its own zones from what was recorded, others as the scene says.
        private void Reads(int r, BenchCopy copy, Sensor sensor, SenseSpec s, SensorCalibration? calibration)
        {
            var n = surfaces.Count;
            (s.Means, s.Sds) = ([.. Enumerable.Repeat(-1, n)], new double[n]);
            s.ZoneSurface = [.. s.Zones.Select(z => surfaces.IndexOf(z))];
            if (s.IsColour)
            {
                Colours(r, sensor, s, calibration);
                return;
            }
            if (sensor.Kind is SensorKind.Distance)
                return;
            var usualSd = s
                .Zones.Select(z => calibration?.Reads(z)?.MoveSd)
                .OfType<double>()
                .DefaultIfEmpty(Math.Max(1, sensor.Resolution))
                .Average();
            for (var i = 0; i < n; i++)
            {
                var surface = surfaces[i];
                // Of a surface that is another one for this eye, that one may be told too.
                var zone = ZoneOf(s, i);
                var told = scene.All("surface reads").Where(l => l.Name("eye") == s.Name).ToLookup(l => l.Name("name"));
                if ((told[surface].FirstOrDefault() ?? told[zone].FirstOrDefault()) is { } said)
                {
                    s.Means[i] = Draw(said, "x", In(r, $"{sensor.Name} over {surface}"));
                    s.Sds[i] = usualSd;
                    continue;
                }
                if (calibration?.Reads(zone) is { } reads)
                {
                    s.Means[i] = Draw(r, $"{sensor.Name} over {zone}", reads, More(r, sensor.Name, zone, reads));
                    s.Sds[i] = reads.MoveSd;
                }
                else if (
                    copy.Rig.Rail?.Surfaces.FirstOrDefault(x => x.Name == surface) is { } painted
                    && sensor.Kind == SensorKind.ReflectedLight
                )
                {
                    s.Means[i] = Draw(r, $"{sensor.Name} over {surface}", painted.Reads);
                    s.Sds[i] = painted.Reads.MoveSd;
                }
            }
            if (sensor.Kind == SensorKind.Sound)
            {
                int[] heard = [.. s.ZoneSurface.Where(z => z >= 0 && s.Means[z] >= 0).OrderBy(z => draws[s.Means[z]].Usual)];
                (s.NothingThere, s.Loudest) = heard.Length >= 2 ? (heard[0], heard[^1]) : (-1, -1);
                s.Lag1 = plan.Model.Correlated && calibration is not null ? Correlation(calibration) : 0;
                return;
            }
            s.Lag1 = plan.Model.Correlated && calibration is not null ? Correlation(calibration) : 0;
            s.NothingThere =
                sensor.SilenceIs is { } none ? surfaces.IndexOf(none)
                : s.Zones.Length == 0 ? -1
                // Unsaid, the brightest for one that sees the room, and else its first zone.
                : sensor.Kind == SensorKind.AmbientLight
                    ? s
                        .ZoneSurface.Where(z => z >= 0 && s.Means[z] >= 0)
                        .OrderByDescending(z => draws[s.Means[z]].Usual)
                        .DefaultIfEmpty(-1)
                        .First()
                : s.ZoneSurface[0];
        }

        // One reading after the other: only where it was clearly seen, beyond two over the root of their number.
        private static double Correlation(SensorCalibration calibration)
        {
            var worst = 0.0;
            foreach (var zone in calibration.Zones.Where(z => z.Timed && z.Readings.Count >= 8))
            {
                var kept = calibration.Kept(zone.Zone);
                var n = kept.Count;
                if (n < 8)
                    continue;
                var mean = kept.Average();
                double top = 0,
                    below = 0;
                for (var i = 0; i < n; i++)
                {
                    below += (kept[i] - mean) * (kept[i] - mean);
                    if (i > 0)
                        top += (kept[i] - mean) * (kept[i - 1] - mean);
                }
                if (below > 0 && top / below is var rho && Math.Abs(rho) > 2 / Math.Sqrt(n) && Math.Abs(rho) > Math.Abs(worst))
                    worst = rho;
            }
            return Math.Clamp(worst, -0.95, 0.95);
        }

        // Twenty more readings of a zone.
        private const int MoreReadings = 20;

        private static Measuring? More(int r, string sensor, string? zone, double sd, double readings) =>
            r > 0
                ? null
                : new(
                    "sense",
                    sensor,
                    sd / Math.Sqrt(readings + MoreReadings),
                    $"{MoreReadings} more readings of {sensor}{(zone is null ? "" : $" over {zone}")}",
                    1,
                    zone
                )
                {
                    Dof = readings + MoreReadings - 1,
                };

        private static Measuring? More(int r, string sensor, string zone, Quantity reads) =>
            More(r, sensor, zone, reads.MoveSd, (reads.Dof ?? 0) + 1);

        private static readonly string[] ColourChannels = ["red", "green", "blue"];

        private void Colours(int r, Sensor sensor, SenseSpec s, SensorCalibration? calibration)
        {
            var n = surfaces.Count;
            (s.Channels, s.ChannelSds) = (new int[n][], new double[n][]);
            s.NothingThere =
                sensor.SilenceIs is { } none ? surfaces.IndexOf(none)
                : s.ZoneSurface.Length > 0 ? s.ZoneSurface[0]
                : -1;
            if (calibration is null)
                return;
            if (sensor.Kind == SensorKind.ColourName)
            {
                Words(r, sensor, s, calibration);
                return;
            }
            for (var i = 0; i < n; i++)
            {
                var zone = ZoneOf(s, i);
                var kept = calibration.Zones.FirstOrDefault(z => z.Zone == zone)?.Readings;
                if (kept is null || kept.Count < 9 || kept.Count % 3 != 0 || sensor.Kind != SensorKind.Colour)
                    continue;
                (s.Channels[i], s.ChannelSds[i]) = (new int[3], new double[3]);
                var means = 0.0;
                for (var c = 0; c < 3; c++)
                {
                    double[] own = [.. Enumerable.Range(0, kept.Count / 3).Select(k => kept[3 * k + c])];
                    var mean = own.Average();
                    means += mean / 3;
                    var sd = Math.Sqrt(own.Sum(v => (v - mean) * (v - mean)) / Math.Max(1, own.Length - 1));
                    s.ChannelSds[i][c] = sd;
                    s.Channels[i][c] = Draw(
                        r,
                        $"{ColourChannels[c]} of {sensor.Name} over {zone}",
                        new(mean, "", Provenance.Measured, $"{own.Length} readings", sd / Math.Sqrt(own.Length), sd, 0, 0, 255)
                        {
                            Dof = own.Length - 1,
                        },
                        More(r, sensor.Name, zone, sd, own.Length)
                    );
                }
                s.Means[i] = Fixed($"{s.Name} over {zone}", means);
            }
            if (SenseJudge.Classes(calibration) is not { Classes.Count: >= 2 } input)
                return;
            var result = Core.Sensing.Colours.Compute(input).Result;
            s.ClassMeans = [.. result.Coefficients.Select(f => f.Mean.ToArray())];
            s.ClassZones = [.. result.Coefficients.Select(f => Array.IndexOf(s.Zones, f.Name))];
            s.Inverse = [.. result.InverseCovariance.SelectMany(row => row)];
            s.Reject = result.RejectDistance;
        }

        // A sensor of colour words says over a surface what it said when readings of it were taken, as often.
        private void Words(int r, Sensor sensor, SenseSpec s, SensorCalibration calibration)
        {
            s.Words = new double[]?[surfaces.Count];
            (s.WordMain, s.WordShares) = (new int[surfaces.Count], new int[surfaces.Count]);
            for (var i = 0; i < surfaces.Count; i++)
            {
                if (calibration.Zones.FirstOrDefault(z => z.Zone == ZoneOf(s, i))?.Readings is not { Count: >= 3 } kept)
                    continue;
                var sum = new double[SenseJudge.ColourWords.Count];
                foreach (var word in kept)
                    sum[(int)Math.Clamp(Math.Round(word), 0, sum.Length - 1)] += 1.0 / kept.Count;
                // Its share as a copy may have it: between what was seen and one more reading of either kind (Laplace's rule).
                var main = Array.IndexOf(sum, sum.Max());
                var likely = (sum[main] * kept.Count + 1) / (kept.Count + 2);
                s.WordMain[i] = main;
                s.WordShares[i] = Draw(
                    r,
                    $"how often {sensor.Name} says {SenseJudge.ColourWords[main]} over {surfaces[i]}",
                    new(
                        sum[main],
                        "of readings",
                        Provenance.Measured,
                        $"{kept.Count} readings",
                        Math.Sqrt(likely * (1 - likely) / (kept.Count + 3)),
                        0,
                        0,
                        0,
                        1
                    ),
                    More(r, sensor.Name, surfaces[i], Math.Sqrt(likely * (1 - likely)), kept.Count)
                );
                sum[main] = 0;
                for (var w = 1; w < sum.Length; w++)
                    sum[w] += sum[w - 1];
                s.Words[i] = sum;
                s.Means[i] = Fixed($"{s.Name} over {surfaces[i]}", kept.Average());
            }
            var named = NamedColours.Judge(calibration.Zones, SenseJudge.ColourWords, sensor.SamplePeriodMs, calibration.MaxFalsePerHour);
            s.WordZones =
            [
                .. SenseJudge.ColourWords.Select(w => named.ByWord.TryGetValue(w, out var zone) ? Array.IndexOf(s.Zones, zone) : -1),
            ];
        }

        // The zone of an eye that a surface is: its own, or the one that the scene says.
        private string ZoneOf(SenseSpec s, int surface) =>
            scene.All("surface is").FirstOrDefault(l => l.Name("name") == surfaces[surface] && l.Name("eye") == s.Name)?.Name("zone")
            ?? surfaces[surface];

        private void Ranging(int r, RigDesign rig, Sensor sensor, SenseSpec s, SensorCalibration? calibration)
        {
            s.BeamRad = (sensor.BeamHalfAngleDeg?.Value ?? 10) * Math.PI / 180;
            s.BlindMm = sensor.BlindMm?.Value ?? 0;
            s.ReachMm = sensor.ReachMm?.Value ?? 2000;
            s.SilentReading = sensor.SilentReading;
            s.Echo = sensor.Principle == RangePrinciple.Ultrasonic;
            if (Body.SeesItselfAtMm(rig, sensor) is { } own)
                s.OwnBodyMm = own;
            // Readings of several distances tell how the spread grows.
            // What was not heard says nothing of the spread, but how often nothing is heard at such a distance.
            var known = new List<(double Mm, double Sd, double Silent)>();
            var free = 0;
            foreach (var zone in calibration?.Zones ?? [])
            {
                var kept = calibration!.Kept(zone.Zone);
                double[] heard = [.. kept.Where(v => v != sensor.SilentReading && !double.IsNaN(v))];
                if (heard.Length < 3)
                    continue;
                var mean = heard.Average();
                free += heard.Length - 1;
                known.Add(
                    (mean, Math.Sqrt(heard.Sum(v => (v - mean) * (v - mean)) / (heard.Length - 1)), 1 - heard.Length / (double)kept.Count)
                );
            }
            known.Sort();
            s.SilentAt = [.. known.Select(k => (k.Mm, k.Silent))];
            if (free > 0)
                s.RangeSpread = Draw(
                    r,
                    $"spread of {sensor.Name}",
                    new(1, "times", Provenance.Measured, $"{Figures.Count(free + known.Count, "reading")}", 0, 1) { Dof = free },
                    More(r, sensor.Name, null, 1, free)
                );
            if (known.Count == 1)
                s.RangeSd = known[0].Sd;
            else if (known.Count > 1)
            {
                var slope = Math.Max(0, (known[^1].Sd - known[0].Sd) / Math.Max(1, known[^1].Mm - known[0].Mm));
                (s.RangeSd, s.RangeSdPerMm) = (Math.Max(0.2, known[0].Sd - slope * known[0].Mm), slope);
            }
        }

        // A surface that is looked at, and of which nothing is known, is no number of ours.
        private void Sized()
        {
            var unknown = new List<SceneFinding>();
            var strange = new SortedDictionary<int, List<string>>();
            foreach (var s in senses.Where(s => s.Way is SenseWay.Ground or SenseWay.Rail or SenseWay.Notch or SenseWay.Belt))
            {
                var looked = new HashSet<int>();
                if (s.Way == SenseWay.Notch)
                {
                    looked.UnionWith(plan.Layout.Notches.Where(n => plan.Senses[n.Sense] == s).Select(n => n.Surface));
                    // Between the marks it looks at the first of its zones that is no mark.
                    s.NothingThere = s.ZoneSurface.Where(z => !looked.Contains(z)).DefaultIfEmpty(s.NothingThere).First();
                    if (s.NothingThere >= 0)
                        looked.Add(s.NothingThere);
                }
                else if (s.Way == SenseWay.Belt)
                {
                    looked.UnionWith(plan.Belt!.Feeds.Select(f => f.Surface));
                    var belt = surfaces.IndexOf("belt");
                    s.NothingThere = belt >= 0 && s.Means[belt] >= 0 ? belt : s.NothingThere;
                    if (s.NothingThere >= 0)
                        looked.Add(s.NothingThere);
                }
                else
                {
                    looked.Add(plan.Ground);
                    looked.UnionWith(plan.Layout.Paints.Select(p => p.Surface));
                    looked.UnionWith(plan.Layout.Markers.Select(m => m.Surface));
                }
                foreach (var i in looked.Where(i => s.Means[i] < 0))
                    (strange.TryGetValue(i, out var eyes) ? eyes : strange[i] = []).Add(s.Name);
            }
            foreach (var (i, eyes) in strange)
                unknown.Add(
                    new(
                        LineOf(i),
                        "surface-unknown",
                        $"{Figures.List(eyes)} {(eyes.Count == 1 ? "looks" : "look")} at “{surfaces[i]}” in this scene and "
                            + $"{(eyes.Count == 1 ? "knows" : "know")} nothing of it on this copy. "
                            + "Take at least 3 readings of it in Sense, "
                            + $"or say in the scene what it reads: surface {surfaces[i]} reads 31 % on {eyes[0]}."
                    )
                );
            // What stands before an eye, or lies under it, and is not known to it, cannot be told from what is behind it.
            foreach (var s in senses.Where(s => s.Way is SenseWay.Faced or SenseWay.Ground))
            foreach (var i in plan.Things.Select(t => t.Surface).Where(i => i >= 0 && s.Means[i] < 0).Distinct())
                found.Add(
                    new(
                        LineOf(i),
                        "surface-unknown",
                        $"{s.Name} knows nothing of “{surfaces[i]}”: it looks past it. Take readings of it in Sense."
                    )
                );
            foreach (var s in senses.Where(s => s.Way is SenseWay.Nothing or SenseWay.Probe && !s.IsColour))
                if (s.Zones.Length > 0 && s.ZoneSurface.Any(z => z < 0 || s.Means[z] < 0))
                    unknown.Add(
                        new(
                            0,
                            "surface-unknown",
                            $"{s.Name} has no readings of "
                                + $"{Figures.List(s.Zones.Where((_, i) => s.ZoneSurface[i] < 0 || s.Means[s.ZoneSurface[i]] < 0))} "
                                + "on this copy yet. "
                                + "Take at least 3 of each in Sense."
                        )
                    );
            if (unknown.Count > 0)
                throw new SceneProblem(unknown);
        }

        // The first line that lays a surface; 0 where none does.
        private int LineOf(int surface) =>
            scene
                .Lines.FirstOrDefault(l =>
                    l.Name("of") == surfaces[surface]
                    || l.Name("beyond") == surfaces[surface]
                    || l.Key == "feed" && l.Name("name") == surfaces[surface]
                )
                ?.Line
            ?? (surface == plan.Ground ? (scene.First("deck") ?? scene.First("floor") ?? scene.First("rail"))?.Line ?? 0 : 0);

        // What is wired where it cannot work does nothing, and the run says so.
        private void Wired()
        {
            var (deadMovers, deadSenses, deadOutputs) = (new bool[movers.Count], new bool[senses.Count], new bool[outputs.Count]);
            for (var r = 0; r < rigs.Count; r++)
                foreach (var (device, say) in rigs[r].Copy.Rig.WiredWrong())
                {
                    var name = In(r, device);
                    for (var i = 0; i < movers.Count; i++)
                        deadMovers[i] |= movers[i].Rig == r && movers[i].Motor == name;
                    for (var i = 0; i < senses.Count; i++)
                        deadSenses[i] |= senses[i].Rig == r && senses[i].Name == name;
                    for (var i = 0; i < outputs.Count; i++)
                        deadOutputs[i] |= outputs[i].Rig == r && outputs[i].Name == name;
                    found.Add(new(0, "wired-wrong", $"{name} does nothing: it is wired where it cannot work. {say}"));
                }
            plan.Dead = (deadMovers, deadSenses, deadOutputs);
        }
    }
}
