using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Simulation;

/// <summary>A transition of a watched run, explained.</summary>
/// <param name="TimeS">When, s.</param>
/// <param name="From">State left; null for the start.</param>
/// <param name="To">State entered; the same as <paramref name="From"/> when it stayed.</param>
/// <param name="Line">Line of the script; 0 for the start.</param>
/// <param name="Sentence">The line's sentence.</param>
/// <param name="Say">What caused it, with the figures.</param>
/// <param name="Place">Where the spot was, in words.</param>
/// <param name="SpotMm">Where the spot was, mm from the line's origin.</param>
/// <param name="Warning">What is odd about it, or null.</param>
public sealed record RunEvent(
    double TimeS,
    string? From,
    string To,
    int Line,
    string Sentence,
    string Say,
    string Place,
    double SpotMm,
    string? Warning
);

/// <summary>A stretch of time in one state.</summary>
public sealed record StateStretch(string State, double FromS, double ToS);

/// <summary>Signals of a watched run, sampled at one rate.</summary>
/// <param name="RateHz">Samples a second.</param>
/// <param name="TimeS">Times, s.</param>
/// <param name="PositionMm">The vehicle's reference point along the line, mm, not wrapped.</param>
/// <param name="SpeedMmPerS">Speed, mm/s.</param>
/// <param name="PowerPercent">Power the motor is given, %.</param>
/// <param name="BatteryV">Battery under load, V.</param>
public sealed record RunSignals(
    double RateHz,
    IReadOnlyList<double> TimeS,
    IReadOnlyList<double> PositionMm,
    IReadOnlyList<double> SpeedMmPerS,
    IReadOnlyList<double> PowerPercent,
    IReadOnlyList<double> BatteryV
);

/// <summary>What a sensor read in a watched run.</summary>
/// <param name="Sensor">Sensor name.</param>
/// <param name="TimeS">Times, s.</param>
/// <param name="Readings">Readings; null where it gave none.</param>
/// <param name="Zones">Zone names by rising reading.</param>
/// <param name="Boundaries">Boundaries between them.</param>
public sealed record SensorTrace(
    string Sensor,
    IReadOnlyList<double> TimeS,
    IReadOnlyList<double?> Readings,
    IReadOnlyList<string> Zones,
    IReadOnlyList<Boundary> Boundaries
);

/// <summary>Something shown, sounded or lit in a watched run.</summary>
public sealed record RunOutput(double TimeS, string Device, string Say);

/// <summary>A number drawn for a watched run.</summary>
public sealed record DrawnNumber(string Name, double Value, string Unit, Provenance Kind, double Usual);

/// <summary>Why a run failed.</summary>
/// <param name="Rule">The goal or never, as written; null when the machine was stopped.</param>
/// <param name="AtS">When it was decided, s.</param>
/// <param name="Where">Where the vehicle was, in words.</param>
/// <param name="LastTransition">The sentence of the last transition taken.</param>
/// <param name="Say">The whole in one or two sentences.</param>
public sealed record RunFailure(string? Rule, double AtS, string Where, string? LastTransition, string Say);

/// <summary>One run, watched.</summary>
public sealed record RunReport(
    long Seed,
    bool Passed,
    double EndS,
    RunFailure? Failure,
    string Say,
    IReadOnlyList<RunEvent> Events,
    IReadOnlyList<StateStretch> States,
    RunSignals Signals,
    IReadOnlyList<SensorTrace> Sensors,
    IReadOnlyList<RunOutput> Outputs,
    IReadOnlyList<DrawnNumber> Draws
)
{
    /// <summary>Runs once and writes everything down.</summary>
    /// <param name="setup">What runs.</param>
    /// <param name="seed">Seed of the run.</param>
    /// <param name="durationS">Longest time, s.</param>
    /// <param name="rateHz">Samples a second of the signals, 1 to 500.</param>
    /// <param name="faults">Disturbances, or null.</param>
    /// <param name="cancel">Stops it.</param>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public static RunReport Watch(
        RailSetup setup,
        long seed,
        double durationS,
        double rateHz = 50,
        IReadOnlyList<Fault>? faults = null,
        CancellationToken cancel = default
    )
    {
        var run = new RailRun(setup);
        var recorder = new Recorder(setup, run, rateHz);
        var result = run.Go(seed, (long)Math.Round(durationS * 1e6), true, recorder, faults, cancel);
        return recorder.Report(seed, result);
    }

    /// <summary>Most transitions, stretches and outputs, each, that one run tells.</summary>
    public const int MostTold = 5_000;

    /// <summary>Most readings of a sensor that one run tells.</summary>
    public const int MostReadings = 120_000;

    private sealed class Recorder(RailSetup setup, RailRun run, double rateHz) : IRunWatcher
    {
        private readonly CompiledScript program = setup.Program;
        private readonly List<RunEvent> events = [];
        private readonly List<StateStretch> states = [];
        private readonly List<double> time = [],
            position = [],
            speed = [],
            power = [],
            battery = [];
        private readonly Dictionary<int, (List<double> Time, List<double?> Reading)> sensors = [];
        private readonly List<RunOutput> outputs = [];
        private readonly Dictionary<int, (string Marker, int Pass)> lastEdge = [];
        private string? current;
        private bool looked,
            cut;
        private double spot = double.NaN;
        private string? overMarker;
        private int pass;
        private long nextSample;
        private double endS;

        private double Spot => double.IsNaN(spot) ? RailRun.Wrap(run.Drawn[RailSetup.StartAt], setup.Rail.LengthMm) : spot;

        private double stretchS;
        private ScriptMachine? machine;
        private readonly Dictionary<string, double> enteredAt = [];

        public void Started(ScriptMachine machine)
        {
            this.machine = machine;
            Look();
            // What the first state led to at once has been told already; the start stands before it.
            events.Insert(
                0,
                new(
                    0,
                    null,
                    Names(program.Program.Regions),
                    0,
                    "",
                    $"The program starts in {Names(program.Program.Regions)}.",
                    Places.Near(setup, run.Drawn, Spot),
                    Spot,
                    null
                )
            );
        }

        private static string Names(Sequence<RegionNode> regions) =>
            string.Join(" and ", regions.Select(r => r.States.FirstOrDefault(s => s.Initial)?.Name).OfType<string>());

        public void Taken(long timeMicros, int step, ScriptMachine machine)
        {
            var t = timeMicros * 1e-6;
            var (sentence, from, to, region) = program.Steps[step];
            if (sentence is null)
                return;
            looked = false;
            if (events.Count >= MostTold)
            {
                // The first of them tell how it goes round; the rest would only fill memory.
                cut = true;
                return;
            }
            events.Add(
                new(
                    t,
                    from,
                    to,
                    sentence.Span.Line,
                    Printer.Plain(Printer.Pieces(sentence)),
                    Explain(sentence, from, machine, t),
                    Places.Near(setup, run.Drawn, Spot),
                    Spot,
                    Odd(step, sentence)
                )
            );
            if (sentence.Target is null)
                return;
            enteredAt[to] = t;
            if (region != program.Program.Regions[0].Name || states.Count >= MostTold)
                return;
            states.Add(new(current ?? from, stretchS, t));
            (current, stretchS) = (to, t);
        }

        // The strip follows the innermost state of the first region.
        private void Look()
        {
            if (looked)
                return;
            looked = true;
            var now = machine!.Configuration.FirstOrDefault();
            now = now?[(now.LastIndexOf('.') + 1)..];
            if (now is not null)
                current = now;
        }

        private string Explain(TransitionNode taken, string from, ScriptMachine machine, double t)
        {
            switch (taken.Trigger)
            {
                case AfterTriggerNode a:
                    return $"{Show(t - enteredAt.GetValueOrDefault(from), 3)} s after entering {from}, as “after "
                        + $"{Printer.Print(a.Time)}” asks.";
                case EveryTriggerNode e:
                    return $"It comes every {Printer.Print(e.Time)}.";
                case ConditionTriggerNode c:
                    var values = new List<string>();
                    foreach (var name in Analysis.Variables(c.Condition).Select(v => v.Name).Distinct())
                        if (machine.ValueOf(name) is { } value)
                            values.Add($"{name} is {value}");
                    return $"{Printer.Print(c.Condition)} holds{(values.Count > 0 ? ": " + string.Join(", ", values) : "")}.";
                case ZoneTriggerNode z:
                    var sensor = program.SensorIndex(z.Sensor);
                    var reading = machine.ReadingOf(sensor);
                    if (double.IsNaN(reading))
                        return $"{z.Sensor} is already in {z.Zone} when {from} begins.";
                    var scale = program.ScaleOf(sensor)!;
                    var zone = scale.IndexOf(z.Zone);
                    var inRow = z.Needed == 1 ? "one reading is enough" : $"{z.Needed} readings in a row";
                    // The boundary that the reading lies beyond, on the side it came from.
                    var (up, boundary) =
                        zone > 0 && reading > scale.Boundaries[zone - 1].Threshold
                            ? (z.Relation != ZoneRelation.Leaves, scale.Boundaries[zone - 1])
                        : zone < scale.Boundaries.Count ? (z.Relation == ZoneRelation.Leaves, scale.Boundaries[zone])
                        : (false, scale.Boundaries[^1]);
                    if (z.Relation == ZoneRelation.Leaves)
                    {
                        var over = zone < scale.Boundaries.Count && reading > scale.Boundaries[zone].Threshold;
                        boundary = over ? scale.Boundaries[zone] : scale.Boundaries[Math.Max(0, zone - 1)];
                        up = over;
                    }
                    return $"{z.Sensor} read {Show(reading)} %, {(up ? "above" : "below")} {Show(boundary.Threshold, 3)} "
                        + $"{(up ? "+" : "−")} {Show(boundary.Hysteresis, 2)} %; {inRow}.";
                default:
                    return "";
            }
        }

        // The same edge again over the same marker, without having left it in between.
        private string? Odd(int index, TransitionNode taken)
        {
            if (taken.Trigger is not ZoneTriggerNode { Relation: ZoneRelation.Becomes or ZoneRelation.Leaves } || overMarker is null)
                return null;
            var again = lastEdge.TryGetValue(index, out var last) && last == (overMarker, pass);
            lastEdge[index] = (overMarker, pass);
            return again ? $"This is still {overMarker}: the same tag a second time." : null;
        }

        public void Stepped(long timeMicros, double positionMm, double speedMmPerS, double powerPercent, double batteryV)
        {
            endS = timeMicros * 1e-6;
            Look();
            var ahead = setup.Eyes.Length > 0 ? run.Drawn[setup.Eyes[0].AheadDraw] : 0;
            spot = RailRun.Wrap(positionMm + ahead, setup.Rail.LengthMm);
            var marker = Places.Touching(setup, run.Drawn, spot);
            if (marker != overMarker)
            {
                if (marker is not null)
                    pass++;
                overMarker = marker;
            }
            if (timeMicros < nextSample)
                return;
            nextSample += (long)Math.Round(1e6 / rateHz);
            time.Add(endS);
            position.Add(positionMm);
            speed.Add(speedMmPerS);
            power.Add(powerPercent);
            battery.Add(batteryV);
        }

        public void Read(int sensor, long timeMicros, double reading, double spotMm)
        {
            spot = spotMm;
            if (sensors.TryGetValue(sensor, out var known) && known.Time.Count >= MostReadings)
                return;
            if (!sensors.TryGetValue(sensor, out var trace))
                sensors[sensor] = trace = ([], []);
            trace.Time.Add(timeMicros * 1e-6);
            trace.Reading.Add(double.IsNaN(reading) ? null : reading);
        }

        public void Commanded(long timeMicros, ScriptCommand command, ScriptMachine machine)
        {
            if (outputs.Count >= MostTold)
                return;
            var sentence = machine.Sentence(command);
            // A mechanism is spoken of by the motor that is wired.
            var name =
                command.Device >= 0 && sentence is not (ToneNode or BeepNode or PlayNode or WaitNode)
                    ? program.DeviceNames[command.Device]
                    : "Controller";
            var device = name == setup.Vehicle.Name ? setup.Vehicle.Motor ?? name : name;
            var lamp = command.Device >= 0 && setup.Rig.Actuators.FirstOrDefault(a => a.Name == name) is { Kind: ActuatorKind.Lamp };
            outputs.Add(
                new(
                    timeMicros * 1e-6,
                    device,
                    sentence switch
                    {
                        RunNode => $"run at {Show(command.Value)} %",
                        StopNode { Mode: StopMode.Coast } => "stop and coast",
                        LampNode { On: true } => "on",
                        LampNode => "off",
                        null when lamp => "off",
                        null or StopNode => "stop and brake",
                        ToneNode tone => $"tone {Show(command.Value)} Hz for {Show(Analysis.Constant(tone.Time) ?? 0)} s",
                        ShowNode shown => $"show “{shown.Text}”",
                        ShowValueNode => $"show {Show(command.Value)}",
                        _ => Printer.Plain(Printer.Sentence(sentence)),
                    }
                )
            );
        }

        public RunReport Report(long seed, RunResult result)
        {
            if (current is not null)
                states.Add(new(current, stretchS, endS));
            var failure = Failure(result);
            var say =
                failure?.Say
                ?? (
                    setup.Rules.Any(r => r.IsGoal)
                        ? $"Passed in {Show(result.TimeMicros * 1e-6, 3)} s."
                        : "Nothing was asked of this run: the program has no goal line."
                );
            if (cut)
                say += $" Only its first {MostTold} transitions are told.";
            return new(
                seed,
                result.Passed,
                endS,
                failure,
                say,
                events,
                states,
                new(rateHz, time, position, speed, power, battery),
                [
                    .. sensors.Select(s => new SensorTrace(
                        program.SensorName(s.Key),
                        s.Value.Time,
                        s.Value.Reading,
                        program.ScaleOf(s.Key)?.Names ?? [],
                        program.ScaleOf(s.Key)?.Boundaries ?? []
                    )),
                ],
                outputs,
                [.. setup.Draws.Select((d, i) => new DrawnNumber(d.Name, run.Drawn[i], d.Number.Unit, d.Number.Kind, d.Number.Value))]
            );
        }

        private RunFailure? Failure(RunResult result)
        {
            if (result.Passed)
                return null;
            var where = Places.Ended(setup, run.Drawn, result);
            var rule = result.Rule >= 0 ? setup.Rules[result.Rule].Text : null;
            var last =
                result.LastTransition >= 0 && program.Steps[result.LastTransition].Node is { } sentence
                    ? Printer.Plain(Printer.Pieces(sentence))
                    : null;
            var at = result.TimeMicros * 1e-6;
            var twice = events.FirstOrDefault(e => e.Warning is not null);
            var say = result.Ending switch
            {
                RunEnding.MachineFault => run.MachineFault!,
                RunEnding.NeverBroken => $"After {Show(at, 3)} s it was {where.Text}, which must never be.",
                _ => $"After {Show(at, 3)} s it was {where.Text}{(where.DetailMm is { } mm ? $" by {Show(mm, 2)} mm" : "")}.",
            };
            if (twice is not null && result.Ending != RunEnding.MachineFault)
                say +=
                    $" {char.ToUpperInvariant(twice.Place[0])}{twice.Place[1..]}, at {Show(twice.TimeS, 3)} s, the same tag was taken "
                    + "for another one.";
            return new(rule, at, where.Text, last, say);
        }
    }
}

/// <summary>Places along the line, in words.</summary>
internal static class Places
{
    private static double FromMiddle(RailSetup setup, ReadOnlySpan<double> drawn, int marker, double spot)
    {
        var length = setup.Rail.LengthMm;
        var d = RailRun.Wrap(spot - setup.Rail.Markers[marker].AtMm - drawn[setup.FirstMarker + marker] / 2, length);
        return d > length / 2 ? d - length : d;
    }

    private static double Radius(RailSetup setup, ReadOnlySpan<double> drawn) =>
        setup.Eyes.Length > 0 ? drawn[setup.Eyes[0].SpotDraw] / 2 : 0;

    /// <summary>The marker that any part of the spot lies on, or null.</summary>
    public static string? Touching(RailSetup setup, ReadOnlySpan<double> drawn, double spot)
    {
        for (var m = 0; m < setup.Rail.Markers.Count; m++)
            if (Math.Abs(FromMiddle(setup, drawn, m, spot)) < drawn[setup.FirstMarker + m] / 2 + Radius(setup, drawn))
                return setup.Rail.Markers[m].Name;
        return null;
    }

    /// <summary>"over bed 2" or "120 mm after bed 2".</summary>
    public static string Near(RailSetup setup, ReadOnlySpan<double> drawn, double spot)
    {
        if (setup.Rail.Markers.Count == 0)
            return $"{Show(spot, 3)} mm along";
        if (Touching(setup, drawn, spot) is { } touching)
            return $"over {touching}";
        var (name, past) = Behind(setup, drawn, spot);
        return $"{Show(past, 3)} mm after {name}";
    }

    private static (string Name, double Past) Behind(RailSetup setup, ReadOnlySpan<double> drawn, double spot)
    {
        var length = setup.Rail.LengthMm;
        var (name, least) = ("", double.MaxValue);
        for (var m = 0; m < setup.Rail.Markers.Count; m++)
        {
            var past = RailRun.Wrap(spot - setup.Rail.Markers[m].AtMm - drawn[setup.FirstMarker + m], length);
            if (past < least)
                (name, least) = (setup.Rail.Markers[m].Name, past);
        }
        return (name, least);
    }

    /// <summary>Where a run ended, in words that group alike: "standing over bed 2", "standing past bed 3", "still moving".</summary>
    public static (string Text, double? DetailMm) Ended(RailSetup setup, ReadOnlySpan<double> drawn, RunResult result)
    {
        if (!result.Standing)
            return ("still moving", null);
        if (setup.Rail.Markers.Count == 0)
            return ("standing", null);
        var radius = Radius(setup, drawn);
        var (best, excess) = (-1, double.MaxValue);
        for (var m = 0; m < setup.Rail.Markers.Count; m++)
        {
            // How far the spot sticks out of this marker; negative when it lies inside.
            var outside = Math.Abs(FromMiddle(setup, drawn, m, result.SpotMm)) - drawn[setup.FirstMarker + m] / 2 + radius;
            if (outside < excess)
                (best, excess) = (m, outside);
        }
        var name = setup.Rail.Markers[best].Name;
        if (excess <= 0)
            return ($"standing over {name}", null);
        return (FromMiddle(setup, drawn, best, result.SpotMm) > 0 ? $"standing past {name}" : $"standing short of {name}", excess);
    }
}

/// <summary>Where runs end, for those who count them.</summary>
public static class RailPlaces
{
    /// <summary>Where a run ended, in words that group alike.</summary>
    /// <param name="setup">What ran.</param>
    /// <param name="result">Its outcome.</param>
    /// <param name="seed">Its seed, from which marker lengths and the spot are drawn again.</param>
    public static string Ended(RailSetup setup, RunResult result, long seed)
    {
        var numbers = new RandomStream((ulong)seed, 1);
        var drawn = new double[setup.Draws.Count];
        for (var i = 0; i < drawn.Length; i++)
            drawn[i] = setup.Draws[i].Number.DrawForRun(numbers.Normal());
        return Places.Ended(setup, drawn, result).Text;
    }
}
