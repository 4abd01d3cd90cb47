using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

public sealed partial class ScriptMachine
{
    // What a sensor was shown in this run, and what it reads while it is being shown something.
    private struct Look
    {
        public double Sum;
        public int Count;
        public bool Going,
            CannotTell;
        public List<(string Zone, double Reading)>? Taught;
    }

    // Zones as they are now: those that the program was bound to, or what became of them when it taught some.
    private readonly ZoneScale?[] scales;
    private readonly int[][] scaleZones;
    private readonly Look[] looks;

    private void ForgetTaught()
    {
        for (var s = 0; s < looks.Length; s++)
        {
            (scales[s], scaleZones[s]) = (script.ScaleOf(s), script.ScaleOf(s) is null ? [] : script.ScaleZones[s]);
            looks[s] = new() { Taught = looks[s].Taught };
            looks[s].Taught?.Clear();
        }
    }

    internal bool CannotTell(int sensor) => looks[sensor].CannotTell;

    private void Saw(int sensor, double reading)
    {
        ref var look = ref looks[sensor];
        if (!look.Going)
            return;
        look.Sum += reading;
        look.Count++;
    }

    // Begins to look, or takes what was read for a zone. A run teaches seldom: this may allocate.
    private void Teach(int sensor, int zone, bool looked)
    {
        ref var look = ref looks[sensor];
        if (zone < 0)
        {
            (look.Sum, look.Count, look.Going) = (0, 0, true);
            return;
        }
        var reading =
            !looked ? (blind[sensor] ? double.NaN : readings[sensor])
            : look.Count > 0 ? look.Sum / look.Count
            : double.NaN;
        look.Going = false;
        var taught = look.Taught ??= [];
        taught.RemoveAll(t => t.Zone == script.Zones[zone]);
        // What was shown while nothing was read is not known.
        if (!double.IsNaN(reading))
            taught.Add((script.Zones[zone], reading));
        var made = double.IsNaN(reading) ? null : Teaching.Scale(script.ScaleOf(sensor), taught);
        // Where nothing is read, as when all that may happen is looked at, it may come out either way.
        var tells = Vague is { } v ? v.Choose(2) == 1 : made is not null;
        look.CannotTell = !tells;
        (scales[sensor], scaleZones[sensor]) = (made, made is null ? [] : [.. made.Names.Select(n => Array.IndexOf(script.Zones, n))]);
        var now = tells ? zone : -1;
        foreach (var i in trackersOf[sensor])
            (held[i], followers[i]) = (now, ZoneTracker.At(Followed(sensor, now)));
        zoneSince[sensor] = NowMicros;
        foreach (var u in units)
            u.NameEdges(sensor);
    }

    /// <summary>What a sensor was taught cannot be told apart: an event of walks, where nothing is read.</summary>
    public void Confuse(int sensor)
    {
        if (Finished || Fault is not null)
            return;
        NewMoment();
        known[sensor] = true;
        looks[sensor].CannotTell = true;
        foreach (var i in trackersOf[sensor])
            (held[i], followers[i]) = (-1, ZoneTracker.At(-1));
        foreach (var u in units)
            u.NameEdges(sensor);
        Reread(sensor);
    }
}
