using Chiton.Core.Motion;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.Ground;
using Chiton.Core.Simulation.People;
using Chiton.Core.Simulation.Senses;

namespace Chiton.Core.Simulation;

public sealed partial class Bench
{
    private static readonly ulong Phase = Draws.Hash("phase");

    private void StartSenses()
    {
        for (var i = 0; i < senses.Length; i++)
        {
            var spec = plan.Senses[i];
            var noise = Draws.Stream(seed, spec.Noise);
            // Each sensor starts at its own phase of the clock: nobody switches on in step with it.
            var phase = Draws.Stream(seed, spec.Noise ^ Phase);
            senses[i] = new()
            {
                Next = plan.Model.Draws ? (long)(phase.Uniform() * spec.PeriodMicros) : spec.PeriodMicros / 2,
                Reading = double.NaN,
                Zone = -1,
                Noise = noise,
                Due0 = long.MaxValue,
            };
            senses[i].Drift = senses[i].Noise.Normal();
        }
    }

    private void Sense()
    {
        for (var i = 0; i < senses.Length; i++)
        {
            ref var s = ref senses[i];
            var spec = plan.Senses[i];
            if (s.Next <= now)
            {
                s.Next += spec.PeriodMicros;
                Sample(i, spec, ref s);
            }
            while (s.Waiting > 0 && s.Due0 <= now)
            {
                var value = s.Value0;
                (s.Due0, s.Value0) = s.Waiting > 1 ? (s.Due1, s.Value1) : (long.MaxValue, 0);
                s.Waiting--;
                Deliver(i, spec, ref s, value);
            }
        }
        // How far things have come, to the programs that ask: every 10 ms.
        if (now >= nextJudge)
            for (var p = 0; p < plan.AsksTurns.Length; p++)
                Turns(p);
    }

    private void Turns(int p)
    {
        var asks = plan.AsksTurns[p];
        for (var d = 0; d < asks.Length; d++)
        {
            if (!asks[d])
                continue;
            var target = plan.Targets[p][d];
            var (travel, angle) = target.Kind switch
            {
                BenchPlan.TargetKind.Drive => (
                    drives[target.Index].Travel,
                    drives[target.Index].Travel * plan.Movers[plan.Drives[target.Index].Left].DegPerUnit
                ),
                BenchPlan.TargetKind.Vehicle => (
                    movers[plan.Vehicles[target.Index].Mover].At,
                    movers[plan.Vehicles[target.Index].Mover].At * plan.Movers[plan.Vehicles[target.Index].Mover].DegPerUnit
                ),
                BenchPlan.TargetKind.Axis => (0, movers[plan.Axes[target.Index].Mover].At - axes[target.Index].Zero),
                _ => (0, 0),
            };
            network.At(now);
            watcher?.Moved(now, p, d, travel, Math.Round(angle));
            network.Machines[p].Moved(d, travel, Math.Round(angle));
            network.Collect(p);
        }
    }

    // ---- one reading ----

    private void Sample(int i, SenseSpec spec, ref SenseState s)
    {
        var over = Over(i);
        var unplugged = Unplugged(i);
        if (spec.IsSwitch)
        {
            var down =
                !unplugged && (over >= 0 && plan.Happenings[over].Deed == Deed.ReadsZone ? plan.Happenings[over].Zone == 1 : Closed(i));
            if (spec.Bounces)
            {
                if (down != s.Closed)
                    (s.Closed, s.Bounce) = (down, Response.Bounces(spec.PeriodMicros / 1000.0, ref s.Noise));
                else if (Response.Flickers(ref s.Bounce, ref s.Noise))
                    down = !down;
            }
            Deliver(i, spec, ref s, down ? 1 : 0);
            return;
        }
        double value;
        if (unplugged || lostReadings > 0 && LosesReading(i, ref s))
            value = double.NaN;
        else if (spec.IsColour)
        {
            Colour(i, spec, ref s, over);
            return;
        }
        else if (spec.Way == SenseWay.Range)
            value = Range(i, spec, ref s, over);
        else
            value = Scalar(i, spec, ref s, over);
        if (spec.DelayMicros <= 0)
        {
            Deliver(i, spec, ref s, value);
            return;
        }
        if (s.Waiting == 0)
            (s.Due0, s.Value0, s.Waiting) = (now + spec.DelayMicros, value, 1);
        else if (s.Waiting == 1)
            (s.Due1, s.Value1, s.Waiting) = (now + spec.DelayMicros, value, 2);
    }

    private bool LosesReading(int i, ref SenseState s)
    {
        for (var h = 0; h < happenings.Length; h++)
            if (
                happenings[h].Active
                && plan.Happenings[h] is { Deed: Deed.LostReadings } spec
                && spec.Sense == i
                && s.Noise.Uniform() < happenings[h].A
            )
                return true;
        return false;
    }

    private bool Unplugged(int i)
    {
        if (plan.Dead.Senses[i])
            return true;
        for (var h = 0; h < happenings.Length; h++)
            if (happenings[h].Active && plan.Happenings[h] is { Deed: Deed.Unplug } spec && spec.Sense == i)
                return true;
        return false;
    }

    // The line that says what a sensor senses now: the later begun wins.
    private int Over(int i)
    {
        if (senseOver[i] == 0)
            return -1;
        var best = -1;
        for (var h = 0; h < happenings.Length; h++)
            if (
                happenings[h].Active
                && plan.Happenings[h] is { Deed: Deed.Hand or Deed.Comes or Deed.Reads or Deed.ReadsZone or Deed.Silent } spec
                && spec.Sense == i
                && (best < 0 || happenings[h].Since >= happenings[best].Since)
            )
                best = h;
        return best;
    }

    private double Scalar(int i, SenseSpec spec, ref SenseState s, int over)
    {
        double mean = 0,
            variance = 0;
        var speed = 0.0;
        var tremble = 0.0;
        if (over >= 0 && plan.Happenings[over] is var told && told.Deed is Deed.Reads)
            (mean, variance) = (happenings[over].A, Typical(spec));
        else if (over >= 0 && plan.Happenings[over].Deed == Deed.ReadsZone)
            (mean, variance) = Of(spec, plan.Happenings[over].Zone);
        else
            switch (spec.Way)
            {
                case SenseWay.Ground:
                {
                    ref readonly var d = ref drives[spec.Drive];
                    (speed, tremble) = (d.Speed, drawn[plan.Drives[spec.Drive].Tremble]);
                    var (x, y) = Mounted(spec.Drive, drawn[spec.Ahead], drawn[spec.Right]);
                    if (lifted || d.Fallen)
                        (mean, variance) = Of(spec, plan.IsDeck ? plan.Ground : spec.NothingThere);
                    else
                    {
                        Mix.Fill(layout.Paints, plan.Ground, x, y, Math.Max(0.5, drawn[spec.Spot] / 2), shares);
                        Under(spec, x, y, drawn[spec.Spot] / 2);
                        for (var k = 0; k < shares.Length; k++)
                            if (shares[k] > 0 && spec.Means[k] >= 0)
                            {
                                mean += shares[k] * drawn[spec.Means[k]];
                                variance += shares[k] * Varies(spec, k);
                            }
                        mean -= Shade(i, x, y);
                    }
                    break;
                }
                case SenseWay.Rail:
                {
                    var v = spec.Vehicle;
                    (speed, tremble) = (movers[plan.Vehicles[v].Mover].Speed, drawn[plan.Vehicles[v].Tremble]);
                    Line(v, drawn[spec.Ahead], Math.Max(1e-3, drawn[spec.Spot] / 2), spec, ref mean, ref variance);
                    break;
                }
                case SenseWay.Notch:
                    Notches(i, spec, ref mean, ref variance);
                    break;
                case SenseWay.Belt:
                    Along(spec, ref mean, ref variance);
                    break;
                case SenseWay.Force:
                    // Between its hands it feels what the jaws press with, and little noise of its own.
                    (mean, variance) = (spec.Axis >= 0 ? axes[spec.Axis].Force : 0, Typical(spec) * 0.3);
                    break;
                case SenseWay.Probe:
                    (mean, variance) = Of(spec, Wet(spec) ? ZoneSurface(spec, 1) : ZoneSurface(spec, 0));
                    break;
                case SenseWay.Turns:
                    return spec.Axis >= 0 ? Math.Round(movers[plan.Axes[spec.Axis].Mover].At - axes[spec.Axis].Zero) : 0;
                case SenseWay.Sound:
                    var sounds = false;
                    for (var o = 0; o < outputs.Length; o++)
                        sounds |= plan.Outputs[o].Kind == ActuatorKind.Sounder && plan.Outputs[o].Rig == spec.Rig && IsOn(o);
                    // As loud as its loudest zone, else as quiet as its quietest; unread, usual figures.
                    (mean, variance) =
                        spec.NothingThere >= 0 && spec.Loudest >= 0
                            ? Of(spec, sounds ? spec.Loudest : spec.NothingThere)
                            : (sounds ? 70 : 5, Math.Max(4, Typical(spec)));
                    break;
                default:
                    (mean, variance) = Of(spec, spec.Way == SenseWay.Faced ? Facing(spec) : spec.NothingThere);
                    break;
            }
        mean += Lit(i);
        var sd = Math.Sqrt(Math.Max(0, variance));
        if (tremble > 0 && speed != 0)
            sd = RailMotion.RollingSd(sd, mean, speed, tremble);
        return Response.Shown(mean + sd * Response.Wander(spec.Lag1, ref s.Drift, ref s.Noise), spec.Resolution, spec.Low, spec.High);
    }

    // Variance of its readings over a surface, as wide as it is on this copy.
    private double Varies(SenseSpec spec, int surface)
    {
        var sd = spec.Sds[surface] * wide[spec.Means[surface]];
        return sd * sd;
    }

    private double Typical(SenseSpec spec)
    {
        var sum = 0.0;
        var n = 0;
        foreach (var z in spec.ZoneSurface)
            if (z >= 0 && z < spec.Sds.Length && spec.Means[z] >= 0)
            {
                sum += Varies(spec, z);
                n++;
            }
        return n == 0 ? spec.Resolution * spec.Resolution : sum / n;
    }

    private (double Mean, double Variance) Of(SenseSpec spec, int surface) =>
        surface >= 0 && surface < spec.Means.Length && spec.Means[surface] >= 0
            ? (drawn[spec.Means[surface]], Varies(spec, surface))
            : (0, 0);

    private static int ZoneSurface(SenseSpec spec, int zone) => zone < spec.ZoneSurface.Length ? spec.ZoneSurface[zone] : -1;

    // What things that lie there cover of a spot.
    private void Under(SenseSpec spec, double x, double y, double r)
    {
        for (var t = 0; t < things.Length; t++)
        {
            ref readonly var thing = ref things[t];
            if (thing.Lies != Lies.Ground || plan.Things[t].Surface is not (>= 0 and var surface) || spec.Means[surface] < 0)
                continue;
            var far = (x - thing.X) * (x - thing.X) + (y - thing.Y) * (y - thing.Y);
            if (far >= (thing.R + r) * (thing.R + r))
                continue;
            far = Math.Sqrt(far);
            var covers = Shape.SpotShare((thing.R - far) / r);
            if (covers <= 0)
                continue;
            for (var k = 0; k < shares.Length; k++)
                shares[k] *= 1 - covers;
            shares[surface] += covers;
        }
    }

    private double Shade(int sense, double x, double y)
    {
        var less = 0.0;
        foreach (var (where, of, draw, rises) in layout.Shades)
            if (of == sense && where.Outside(x, y) <= 0)
                less += rises ? -drawn[draw] : drawn[draw];
        return less;
    }

    private double Lit(int sense)
    {
        var more = 0.0;
        for (var h = 0; h < happenings.Length; h++)
            if (happenings[h].Active && plan.Happenings[h] is { Deed: Deed.Light } spec && spec.Sense == sense)
                more += spec.Flag ? -happenings[h].A : happenings[h].A;
        return more;
    }

    // An eye over a rail: what of the markers lies under its spot.
    private void Line(int v, double ahead, double radius, SenseSpec spec, ref double mean, ref double variance)
    {
        var covered = 0.0;
        for (var k = 0; k < layout.Markers.Length; k++)
        {
            var share = Covers(v, ahead, radius, k);
            if (share == 0)
                continue;
            var marker = layout.Markers[k];
            covered += share;
            mean += share * drawn[spec.Means[marker.Surface]];
            variance += share * Varies(spec, marker.Surface);
        }
        mean += (1 - covered) * drawn[spec.Means[plan.Ground]];
        variance += (1 - covered) * Varies(spec, plan.Ground);
    }

    private void Notches(int i, SenseSpec spec, ref double mean, ref double variance)
    {
        var radius = Math.Max(0.5, drawn[spec.Spot] / 2);
        var covered = 0.0;
        foreach (var n in layout.Notches)
        {
            if (n.Sense != i)
                continue;
            var share = Covers(spec, n, radius);
            covered += share;
            mean += share * drawn[spec.Means[n.Surface]];
            variance += share * Varies(spec, n.Surface);
        }
        var (ground, spread) = Of(spec, spec.NothingThere);
        mean += (1 - covered) * ground;
        variance += (1 - covered) * spread;
    }

    // The thing of a belt that lies under a place along it; −1 for none.
    private int BeltAt(double mm, double radius, out double share)
    {
        var (best, covers) = (-1, 0.0);
        for (var t = beltFirst; t < beltCount; t++)
        {
            if (onBelt[t].Fate > 1)
                continue;
            var d = mm - onBelt[t].At;
            var half = onBelt[t].Length / 2;
            if (Math.Abs(d) >= half + radius)
                continue;
            var s = Shape.SpotShare((half - d) / radius) - Shape.SpotShare((-half - d) / radius);
            if (s > covers)
                (best, covers) = (t, s);
        }
        share = covers;
        return best;
    }

    private void Along(SenseSpec spec, ref double mean, ref double variance)
    {
        var t = BeltAt(drawn[spec.Ahead], Math.Max(0.5, drawn[spec.Spot] / 2), out var share);
        var (ground, spread) = Of(spec, spec.NothingThere);
        (mean, variance) = ((1 - share) * ground, (1 - share) * spread);
        if (t < 0)
            return;
        var (own, ownSpread) = Of(spec, plan.Belt!.Feeds[onBelt[t].Feed].Surface);
        (mean, variance) = (mean + share * own, variance + share * ownSpread);
    }

    // What of each surface an eye sees now, by its share of the spot.
    private void Seen(int i, SenseSpec spec, int over)
    {
        Array.Clear(shares);
        var radius = Math.Max(0.5, drawn[spec.Spot] / 2);
        var rest = 1.0;
        void Add(int surface, double share, double[] all)
        {
            if (surface >= 0)
                all[surface] += share;
            rest -= share;
        }
        if (over >= 0 && plan.Happenings[over].Deed == Deed.ReadsZone)
            Add(plan.Happenings[over].Zone, 1, shares);
        else
            switch (spec.Way)
            {
                case SenseWay.Belt:
                    if (BeltAt(drawn[spec.Ahead], radius, out var share) is >= 0 and var t)
                        Add(plan.Belt!.Feeds[onBelt[t].Feed].Surface, share, shares);
                    break;
                case SenseWay.Ground when lifted || drives[spec.Drive].Fallen:
                    Add(plan.IsDeck ? plan.Ground : spec.NothingThere, 1, shares);
                    break;
                case SenseWay.Ground:
                    var (x, y) = Mounted(spec.Drive, drawn[spec.Ahead], drawn[spec.Right]);
                    Mix.Fill(layout.Paints, plan.Ground, x, y, radius, shares);
                    Under(spec, x, y, radius);
                    rest = 0;
                    break;
                case SenseWay.Rail:
                    for (var k = 0; k < layout.Markers.Length; k++)
                        if (Covers(spec.Vehicle, drawn[spec.Ahead], radius, k) is > 0 and var covered)
                            Add(layout.Markers[k].Surface, covered, shares);
                    Add(plan.Ground, rest, shares);
                    break;
                case SenseWay.Notch:
                    foreach (var n in layout.Notches)
                        if (n.Sense == i && Covers(spec, n, radius) is > 0 and var marked)
                            Add(n.Surface, marked, shares);
                    break;
                case SenseWay.Faced:
                    Add(Facing(spec), 1, shares);
                    break;
            }
        if (rest > 0 && spec.NothingThere >= 0)
            shares[spec.NothingThere] += rest;
    }

    // How much of a spot on a rail a marker covers.
    private double Covers(int v, double ahead, double radius, int k)
    {
        ref readonly var vehicle = ref vehicles[v];
        var marker = layout.Markers[k];
        if (marker.Line != vehicle.Line)
            return 0;
        var line = layout.Lines[vehicle.Line];
        var half = drawn[marker.Length] / 2;
        var d = vehicle.At + ahead - marker.AtMm - half;
        if (line.Closed)
            d -= Math.Round(d / line.LengthMm) * line.LengthMm;
        return Math.Abs(d) >= half + radius ? 0 : Shape.SpotShare((half - d) / radius) - Shape.SpotShare((-half - d) / radius);
    }

    // How much of a spot a mark that a mechanism carries past it covers.
    private double Covers(SenseSpec spec, NotchSpec n, double radius)
    {
        var mm = plan.Axes[spec.Axis].MmPerUnit > 0 ? plan.Axes[spec.Axis].MmPerUnit : 0.2;
        var d = (movers[plan.Axes[spec.Axis].Mover].At - n.MiddleDeg) * mm;
        return Math.Abs(d) >= n.HalfMm + radius ? 0 : Shape.SpotShare((n.HalfMm - d) / radius) - Shape.SpotShare((-n.HalfMm - d) / radius);
    }

    // What an eye that looks to a side stands before: the nearest thing it knows, close enough to fill its spot.
    private int Facing(SenseSpec spec)
    {
        var (x, y) = Mounted(spec.Drive, drawn[spec.Ahead], drawn[spec.Right]);
        var (dx, dy) = Math.SinCos(drives[spec.Drive].Heading + spec.FacingRad);
        var (best, surface) = (FacedMm, spec.NothingThere);
        for (var t = 0; t < things.Length; t++)
        {
            if (!things[t].IsSeen || plan.Things[t].Surface is not (>= 0 and var own) || spec.Means[own] < 0)
                continue;
            if (plan.Things[t].HighMm.In(drawn) > 0 && spec.HeightMm > plan.Things[t].HighMm.In(drawn))
                continue;
            var at = Shape.RayDisc(x, y, dx, dy, things[t].X, things[t].Y, things[t].R);
            if (at < best)
                (best, surface) = (at, own);
        }
        // Guests are seen where the scene gives their surface.
        for (var d = 0; d < drives.Length; d++)
            if (
                plan.GuestSurfaces[plan.Drives[d].Rig] is >= 0 and var coat
                && plan.Drives[d].Rig != spec.Rig
                && spec.Means[coat] >= 0
                && ToBody(d, x, y, dx, dy) is var near
                && near < best
            )
                (best, surface) = (near, coat);
        return surface;
    }

    // An eye with a lamp of its own tells what stands so near before it, mm.
    private const double FacedMm = 40;

    private void Colour(int i, SenseSpec spec, ref SenseState s, int over)
    {
        Seen(i, spec, over);
        Span<double> rgb = stackalloc double[3];
        if (spec.Words.Length > 0)
        {
            // The word of what fills most of its spot.
            var most = 0;
            for (var k = 1; k < shares.Length; k++)
                if (shares[k] > shares[most])
                    most = k;
            var word = -1;
            if (spec.Words[most] is { } likely)
            {
                // First whether it is the word that it says most often there; of the others each as often as it was seen.
                var luck = s.Noise.Uniform();
                var usual = drawn[spec.WordShares[most]];
                if (luck < usual)
                    word = spec.WordMain[most];
                else if (likely[^1] > 0)
                {
                    var among = (luck - usual) / (1 - usual) * likely[^1];
                    word = 0;
                    while (word < likely.Length - 1 && among >= likely[word])
                        word++;
                }
            }
            rgb[0] = word;
            s.Zone = word >= 0 ? spec.WordZones[word] : -1;
        }
        else
        {
            Span<double> mean = stackalloc double[3],
                sd = stackalloc double[3];
            mean.Clear();
            sd.Clear();
            for (var k = 0; k < shares.Length; k++)
                if (shares[k] > 0 && k < spec.Channels.Length && spec.Channels[k] is { } own)
                    for (var c = 0; c < 3; c++)
                    {
                        mean[c] += shares[k] * drawn[own[c]];
                        sd[c] += shares[k] * spec.ChannelSds[k][c] * wide[own[c]];
                    }
            // Light of the room falls on all three alike.
            var lit = 1 + Lit(i) / 100;
            if (spec.Way == SenseWay.Ground && layout.Shades.Length > 0)
            {
                var (x, y) = Mounted(spec.Drive, drawn[spec.Ahead], drawn[spec.Right]);
                lit -= Shade(i, x, y) / 100;
            }
            for (var c = 0; c < 3; c++)
                mean[c] *= lit;
            Response.Colour(mean, sd, 1, 0, 255, ref s.Noise, rgb);
            s.Zone = Classify(spec, rgb);
        }
        (s.R, s.G, s.B) = (rgb[0], rgb[1], rgb[2]);
        (s.EverRead, s.LastRead) = (true, now);
        watcher?.Read(now, i, rgb[0], s.Zone);
        for (var p = 0; p < spec.In.Length; p++)
            if (spec.In[p] >= 0)
            {
                network.At(now);
                network.Machines[p].SenseZone(spec.In[p], s.Zone >= 0 ? spec.ZoneIn[p][s.Zone] : -1);
                network.Collect(p);
            }
    }

    // The class whose readings lie nearest, by what they share of scatter; none where it is farther than any of its own.
    private static int Classify(SenseSpec spec, ReadOnlySpan<double> rgb)
    {
        var (best, least) = (-1, double.PositiveInfinity);
        for (var k = 0; k < spec.ClassMeans.Length; k++)
        {
            var squared = 0.0;
            for (var a = 0; a < 3; a++)
            for (var b = 0; b < 3; b++)
                squared += (rgb[a] - spec.ClassMeans[k][a]) * spec.Inverse[3 * a + b] * (rgb[b] - spec.ClassMeans[k][b]);
            if (squared < least)
                (best, least) = (k, squared);
        }
        return best < 0 || Math.Sqrt(Math.Max(0, least)) > spec.Reject ? -1 : spec.ClassZones[best];
    }

    // ---- distances ----

    private double Range(int i, SenseSpec spec, ref SenseState s, int over)
    {
        var nearest = spec.OwnBodyMm;
        var silent = false;
        if (over >= 0)
            switch (plan.Happenings[over].Deed)
            {
                case Deed.Silent:
                    silent = true;
                    break;
                case Deed.Reads:
                    nearest = happenings[over].A;
                    break;
                case Deed.ReadsZone:
                    nearest = Band(spec, plan.Happenings[over].Zone);
                    break;
            }
        if (!silent && (over < 0 || plan.Happenings[over].Deed is Deed.Hand or Deed.Comes))
        {
            // Of several things there the nearest is heard.
            for (var h = 0; h < happenings.Length; h++)
                if (happenings[h].Active && plan.Happenings[h] is { Deed: Deed.Hand or Deed.Comes } there && there.Sense == i)
                    nearest = Math.Min(nearest, Before(h));
            nearest = Math.Min(nearest, Beam(spec));
        }
        var heard = silent
            ? double.NaN
            : Response.Heard(nearest, spec.ReachMm, spec.BlindMm, spec.SilentAt.Length > 0 ? Unheard(spec, nearest) : 0, ref s.Noise);
        if (double.IsNaN(heard))
            return spec.SilentReading ?? double.NaN;
        var sd = (spec.RangeSd + spec.RangeSdPerMm * nearest) * (spec.RangeSpread >= 0 ? wide[spec.RangeSpread] : 1);
        return Response.Shown(
            heard + sd * Response.Wander(spec.Lag1, ref s.Drift, ref s.Noise),
            spec.Resolution,
            spec.Resolution > 0 ? spec.Resolution : 0.1,
            spec.High
        );
    }

    // How often nothing is heard at a distance: between those that were recorded.
    private static double Unheard(SenseSpec spec, double mm)
    {
        var at = spec.SilentAt;
        if (mm <= at[0].Mm)
            return at[0].Share;
        for (var i = 1; i < at.Length; i++)
            if (mm <= at[i].Mm)
                return at[i - 1].Share + (at[i].Share - at[i - 1].Share) * (mm - at[i - 1].Mm) / Math.Max(1e-9, at[i].Mm - at[i - 1].Mm);
        return at[^1].Share;
    }

    private double Band(SenseSpec spec, int zone)
    {
        var sensor = plan.Rigs[spec.Rig].Sensors.FirstOrDefault(x => spec.Name.EndsWith(x.Name, StringComparison.Ordinal));
        return sensor is not null && zone >= 0 && zone < sensor.Bands.Count
            ? (sensor.Bands[zone].FromMm + sensor.Bands[zone].ToMm) / 2
            : spec.ReachMm / 2;
    }

    // How far away what comes before a sensor is now.
    internal double Before(int h)
    {
        ref readonly var a = ref happenings[h];
        var spec = plan.Happenings[h];
        if (spec.Deed == Deed.Hand)
            return a.A;
        var t = (now - a.Since) * 1e-6;
        var there = Math.Abs(a.B - a.A) / Math.Max(1e-6, a.C);
        if (t < there)
            return a.A + Math.Sign(a.B - a.A) * a.C * t;
        if (double.IsNaN(a.D) || t < there + a.D)
            return a.B;
        return a.B + (double.IsNaN(a.E) ? 100 : a.E) * (t - there - a.D);
    }

    // The nearest surface within the beam: its middle, its edges and two between.
    private double Beam(SenseSpec spec)
    {
        if (spec.Drive < 0)
            return spec.Vehicle >= 0 ? AlongRail(spec) : double.PositiveInfinity;
        var (x, y) = Mounted(spec.Drive, drawn[spec.Ahead], drawn[spec.Right]);
        var best = double.PositiveInfinity;
        for (var ray = -2; ray <= 2; ray++)
        {
            var (dx, dy) = Math.SinCos(drives[spec.Drive].Heading + spec.FacingRad + ray * 0.5 * spec.BeamRad);
            foreach (var w in layout.Walls)
            {
                if (w.Low && spec.HeightMm > 20)
                    continue;
                var at = Shape.Ray(x, y, dx, dy, w.Ax, w.Ay, w.Bx, w.By);
                if (at >= best)
                    continue;
                // A wall at a slant sends an echo away.
                double ex = w.Bx - w.Ax,
                    ey = w.By - w.Ay;
                var square = Math.Abs(dx * ey - dy * ex) / Math.Sqrt(ex * ex + ey * ey);
                if (!spec.Echo || square > 0.7)
                    best = at;
            }
            for (var t = 0; t < things.Length; t++)
                if (
                    things[t].IsSeen
                    && !(plan.Things[t].Low && spec.HeightMm > 20)
                    && !(plan.Things[t].HighMm.In(drawn) > 0 && spec.HeightMm > plan.Things[t].HighMm.In(drawn))
                )
                    best = Math.Min(best, Shape.RayDisc(x, y, dx, dy, things[t].X, things[t].Y, things[t].R));
            for (var d = 0; d < drives.Length; d++)
                if (d != spec.Drive)
                    best = Math.Min(best, ToBody(d, x, y, dx, dy));
        }
        return best;
    }

    // How far along a ray the outline of a drive begins.
    private double ToBody(int drive, double x, double y, double dx, double dy)
    {
        var spec = plan.Drives[drive];
        ref readonly var d = ref drives[drive];
        var best = double.PositiveInfinity;
        if (double.IsPositiveInfinity(Shape.RayDisc(x, y, dx, dy, d.X, d.Y, spec.Reach)))
            return best;
        for (var k = 0; k < spec.Outline.Length; k++)
        {
            var (a, b) = (Corner(spec, d, k), Corner(spec, d, (k + 1) % spec.Outline.Length));
            best = Math.Min(best, Shape.Ray(x, y, dx, dy, a.X, a.Y, b.X, b.Y));
        }
        return best;
    }

    // What stands before a sensor that looks along its rail, ahead or back: the near end of the next vehicle on the same line.
    private double AlongRail(SenseSpec spec)
    {
        var looks = Math.Cos(spec.FacingRad);
        var best = double.PositiveInfinity;
        if (Math.Abs(looks) < 0.5)
            return best;
        var own = vehicles[spec.Vehicle].Line;
        var at = vehicles[spec.Vehicle].At + drawn[spec.Ahead];
        var line = layout.Lines.Length > 0 ? layout.Lines[own] : null;
        for (var v = 0; v < vehicles.Length; v++)
        {
            if (v == spec.Vehicle || vehicles[v].Line != own)
                continue;
            var gap = looks > 0 ? vehicles[v].At - plan.Vehicles[v].LengthMm - at : at - vehicles[v].At;
            if (line is { Closed: true })
                gap -= Math.Floor(gap / line.LengthMm) * line.LengthMm;
            if (gap >= 0)
                best = Math.Min(best, gap);
        }
        return best;
    }

    // ---- switches ----

    private bool Wet(SenseSpec spec) => LevelMm >= spec.HeightMm;

    private bool Closed(int i)
    {
        var spec = plan.Senses[i];
        switch (spec.Way)
        {
            case SenseWay.Button:
                return Pressed(i);
            case SenseWay.Bumper:
                return Pressed(i)
                    || spec.Drive >= 0 && drives[spec.Drive] is { Touching: true, BumpAhead: true }
                    || spec.Vehicle >= 0 && vehicles[spec.Vehicle].Crashed;
            case SenseWay.End:
            {
                if (Pressed(i))
                    return true;
                var at = movers[plan.Axes[spec.Axis].Mover].At;
                if (spec.SwitchAbove >= 0)
                    return at >= drawn[spec.SwitchAbove] && at <= drawn[spec.SwitchBelow];
                return spec.SwitchLow >= 0 ? at < drawn[spec.SwitchLow] : spec.SwitchHigh >= 0 && at > drawn[spec.SwitchHigh];
            }
            case SenseWay.Load:
                return Pressed(i) || Holds(spec.Axis);
            case SenseWay.Gate:
                if (spec.Kind != SensorKind.LightGate)
                    return Pressed(i) || Stuck();
                return BeltAt(drawn[spec.Ahead], 0.5, out _) >= 0;
            case SenseWay.Clicks:
            {
                var turned =
                    spec.Axis >= 0 ? movers[plan.Axes[spec.Axis].Mover].At
                    : spec.Drive >= 0 ? movers[plan.Drives[spec.Drive].Left].At * plan.Movers[plan.Drives[spec.Drive].Left].PartDegPerUnit
                    : 0;
                var clicks = turned * spec.ClicksPerUnit;
                return clicks - Math.Floor(clicks) < 0.5;
            }
            default:
                return Pressed(i);
        }
    }

    // True while jaws press on something, or something sits on what carries.
    private bool Holds(int axis)
    {
        if (axes[axis].Gripped >= 0)
            return true;
        for (var t = 0; t < things.Length; t++)
            if (things[t].Lies == Lies.Carried && things[t].Holder == axis)
                return true;
        return false;
    }

    // What sticks presses the bumper of the belt.
    private bool Stuck()
    {
        for (var t = 0; t < beltCount; t++)
            if (onBelt[t].Fate == 1)
                return true;
        return false;
    }

    // ---- to the programs ----

    private void Deliver(int i, SenseSpec spec, ref SenseState s, double value)
    {
        s.LastRead = now;
        if (spec.IsSwitch)
        {
            var down = value > 0.5;
            if (s.EverRead && s.Down == down)
                return;
            var first = !s.EverRead;
            (s.EverRead, s.Down) = (true, down);
            s.Zone = down ? 1 : 0;
            // Switches are up until somebody says otherwise.
            if (first && !down)
                return;
            watcher?.Read(now, i, value, s.Zone);
            for (var p = 0; p < spec.In.Length; p++)
                if (spec.In[p] >= 0 && spec.ZoneIn[p].Length > s.Zone)
                {
                    network.At(now);
                    network.Machines[p].SeeZone(spec.In[p], spec.ZoneIn[p][s.Zone]);
                    network.Collect(p);
                }
            return;
        }
        (s.Reading, s.EverRead, s.Silent) = (value, true, double.IsNaN(value) || value == spec.SilentReading);
        watcher?.Read(now, i, value, -1);
        for (var p = 0; p < spec.In.Length; p++)
        {
            if (spec.In[p] < 0)
                continue;
            network.At(now);
            if (double.IsNaN(value))
                network.Machines[p].Sense(spec.In[p], value);
            else
                network.Machines[p].Read(spec.In[p], value);
            network.Collect(p);
        }
        if (drives.Length > 0)
            Lead(i, value);
    }
}
