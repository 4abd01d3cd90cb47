using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.People;
using Chiton.Core.Simulation.Senses;

namespace Chiton.Core.Simulation;

/// <summary>What is told of a run while it is watched. Every call comes in the order things happen.</summary>
internal interface IBenchWatcher
{
    /// <summary>The programs are about to start.</summary>
    void Starting(Bench bench);

    /// <summary>A transition was taken; the machine is as before its actions.</summary>
    void Taken(long micros, int program, int step);

    /// <summary>A sensor gave a reading to the programs; NaN for none. Of a switch 1 is down; of a colour the zone tells.</summary>
    void Read(long micros, int sense, double reading, int zone);

    /// <summary>A program gave a command.</summary>
    void Commanded(long micros, int program, ScriptCommand command);

    /// <summary>A line of the scene began, or ended.</summary>
    void Happened(long micros, int happening, bool began);

    /// <summary>Something happened to a body, in words.</summary>
    void Noted(long micros, string say, double x, double y);

    /// <summary>A step of the clock is over.</summary>
    void Stepped(long micros);

    /// <summary>The programs are about to be given the time; something may be due before it.</summary>
    void Passing(long micros) { }

    /// <summary>A move of a program's device has come to its end by itself.</summary>
    void Ended(long micros, int program, int device) { }

    /// <summary>A program's device stalls.</summary>
    void Stalled(long micros, int program, int device) { }

    /// <summary>A program is told how far a device has come: mm, degrees.</summary>
    void Moved(long micros, int program, int device, double travel, double angle) { }
}

/// <summary>How a run of the bench came out, small enough to keep thousands of.</summary>
/// <param name="Ending">How it ended.</param>
/// <param name="Rule">Which rule decided a failure; −1 for none.</param>
/// <param name="Program">The program whose transition was the last.</param>
/// <param name="LastTransition">The last transition taken by then, in that program's steps; −1 for none.</param>
/// <param name="TimeMicros">When it was decided, µs.</param>
/// <param name="Score">Points.</param>
/// <param name="Ended">Where a failed run ended, in words that group alike; empty where nothing is to be said.</param>
public readonly record struct BenchResult(
    RunEnding Ending,
    int Rule,
    int Program,
    int LastTransition,
    long TimeMicros,
    double Score,
    string Ended
)
{
    /// <summary>True when the run passed.</summary>
    public bool Passed => Ending == RunEnding.Passed;
}

/// <summary>
/// One run's state, in one block a thread. Every run starts from nothing, so the same seed gives the same run bit for bit whatever ran
/// before or beside it; nothing is allocated per step. A step goes to the next moment at which anything happens: the clock's, a reading's,
/// an order's, a timer's.
/// </summary>
public sealed partial class Bench
{
    /// <summary>Most steps of the machines in one run: stimuli, transitions and actions.</summary>
    public const long MostSteps = 5_000_000;

    /// <summary>How often goals are asked, µs.</summary>
    public const long JudgeMicros = 10_000;

    /// <summary>How long a body must stand to count as stopped, µs.</summary>
    public const long StandingMicros = 200_000;

    private readonly BenchPlan plan;
    private Layout layout;
    private readonly ScriptNetwork network;
    private readonly StepBudget budget = new(MostSteps);
    private readonly double[] drawn,
        wide;
    private readonly MoverState[] movers;
    private readonly DriveState[] drives;
    private readonly VehicleState[] vehicles;
    private readonly AxisState[] axes;
    private readonly SenseState[] senses;
    private readonly ThingState[] things;
    private readonly HappeningState[] happenings;
    private readonly double[] shares,
        told;
    private readonly OutputState[] outputs;
    private readonly double[] volts,
        openVolts,
        used,
        given;
    private readonly PackState[] packs;
    private readonly bool[] powered,
        blocked;
    private readonly int[] senseOver,
        nearThings,
        nearWalls;
    private bool lifted;
    private double lostReadings,
        lostMessages;
    private RandomStream messageLuck;
    private long now,
        nextJudge,
        stepEnds;
    private ulong seed;
    private IBenchWatcher? watcher;

    /// <summary>From here on every message between the programs arrives.</summary>
    internal void LoseNoMessages() => network.Loses = null;

    /// <summary>Who is told of every message that arrives: from whom, to whom, its text, its values.</summary>
    internal void TellArriving(Action<int, int, int, double[]> told) => network.Arriving = told;

    /// <summary>When something is due next in the programs by itself, µs.</summary>
    internal long Due => network.NextDue;
    private int lastProgram;

    /// <summary>A lamp, sounder or display.</summary>
    internal struct OutputState
    {
        public int On;
        public string? Text;
        public double Value;
        public long Since,
            Until;
        public double BlinkOn,
            BlinkOff;
    }

    /// <summary>A runner for a plan.</summary>
    public Bench(BenchPlan plan)
    {
        (this.plan, layout, Scene) = (plan, plan.Layout, plan.Scene);
        network = new(plan.Programs, plan.MessageMicros);
        foreach (var m in network.Machines)
            (m.Budget, m.FaultsWhenSpent, m.EdgesFromStart) = (budget, true, plan.Model.EdgesFromStart);
        drawn = new double[plan.DrawRow.Length];
        wide = new double[plan.DrawRow.Length];
        movers = new MoverState[plan.Movers.Length];
        drives = new DriveState[plan.Drives.Length];
        vehicles = new VehicleState[plan.Vehicles.Length];
        axes = new AxisState[plan.Axes.Length];
        senses = new SenseState[plan.Senses.Length];
        things = new ThingState[plan.Things.Length];
        happenings = new HappeningState[plan.Happenings.Length];
        outputs = new OutputState[plan.Outputs.Length];
        told = new double[plan.Happenings.Length];
        shares = new double[Math.Max(1, plan.Surfaces.Length)];
        (volts, openVolts, used, given) = (
            new double[plan.Packs.Length],
            new double[plan.Packs.Length],
            new double[plan.Packs.Length],
            new double[plan.Packs.Length]
        );
        packs = new PackState[plan.Packs.Length];
        powered = new bool[plan.Movers.Length];
        blocked = new bool[plan.Movers.Length];
        senseOver = new int[plan.Senses.Length];
        nearThings = new int[plan.Drives.Length * plan.Things.Length];
        nearWalls = new int[plan.Drives.Length * plan.Layout.Walls.Length];
        rules = new RuleState[plan.Rules.Count];
        scored = new bool[plan.Scores.Length];
        network.Loses = () => lostMessages > 0 && messageLuck.Uniform() < lostMessages;
    }

    /// <summary>What runs.</summary>
    public BenchPlan Plan => plan;

    /// <summary>The machines.</summary>
    internal ScriptNetwork Network => network;

    /// <summary>Time now, µs since the start.</summary>
    public long NowMicros => now;

    /// <summary>The numbers drawn for this run, in the order of <see cref="BenchPlan.Draws"/>.</summary>
    public ReadOnlySpan<double> Drawn => drawn;

    /// <summary>How many times wider than found the spread of each of them within a run is on this copy.</summary>
    public ReadOnlySpan<double> Wide => wide;

    /// <summary>Why a machine, or their talk, had to be stopped; null while they run well.</summary>
    public string? Fault
    {
        get
        {
            if (network.Fault is { } said)
                return said;
            for (var p = 0; p < network.Machines.Count; p++)
                if (network.Machines[p].Fault is { } fault)
                    return fault;
            return null;
        }
    }

    internal ReadOnlySpan<MoverState> MoverStates => movers;
    internal ReadOnlySpan<DriveState> DriveStates => drives;
    internal ReadOnlySpan<VehicleState> VehicleStates => vehicles;
    internal ReadOnlySpan<AxisState> AxisStates => axes;
    internal ReadOnlySpan<ThingState> ThingStates => things;
    internal ReadOnlySpan<OutputState> OutputStates => outputs;
    internal ReadOnlySpan<SenseState> SenseStates => senses;
    internal ReadOnlySpan<HappeningState> HappeningStates => happenings;

    internal double Volts(int rig) => volts[rig];

    /// <summary>The scene as it is in this run: what varies of the ground drawn, and without the lines of other runs.</summary>
    internal Scenes.SceneNode Scene { get; private set; }

    /// <summary>Where everything is in this run.</summary>
    internal Layout Layout => layout;

    /// <summary>Puts everything down and starts the programs.</summary>
    /// <param name="runSeed">Seed of the run: what varies from run to run, move to move, reading to reading.</param>
    /// <param name="copySeed">Seed of the copy: what is not known well.</param>
    /// <param name="told">Told of everything; null for nobody.</param>
    /// <param name="held">Numbers that are held at a value, by their place; null for none.</param>
    internal void Start(ulong runSeed, ulong copySeed, IBenchWatcher? told = null, IReadOnlyDictionary<int, double>? held = null)
    {
        (seed, watcher, now, nextJudge, lastProgram, deviceSerial) = (runSeed, told, 0, JudgeMicros, -1, 0);
        budget.Renew();
        Draws.All(plan.DrawRow, runSeed, copySeed, drawn, wide);
        // Fitted through the least power, the full speed is drawn with it.
        foreach (var (mover, at, least) in plan.Linked)
            drawn[plan.Movers[mover].Full] *= RailMotion.FullSpeedShare(at, least, drawn[plan.Movers[mover].Least]);
        foreach (var (share, stream, pairs) in plan.Insteads)
            if (Draws.Stream(seed, stream).Uniform() < share)
                foreach (var (to, from) in pairs)
                    drawn[to] = drawn[from];
        if (held is not null)
            foreach (var (at, value) in held)
                drawn[at] = value;
        if (plan.SceneIn is { } drawnScene)
        {
            Scene = drawnScene(drawn, seed);
            layout = plan.LayoutIn(Scene);
        }
        messageLuck = Draws.Stream(seed, MessageLuck);
        (lifted, lostReadings, lostMessages) = (false, 0, 0);
        pendingCount = 0;
        StartPacks();
        Array.Clear(outputs);
        StartBodies();
        StartSenses();
        StartPeople();
        StartRules();
        for (var p = 0; p < network.Machines.Count; p++)
            network.Machines[p].Watcher = watcher is null && Taking is null ? null : TellOf(p);
        watcher?.Starting(this);
        network.Start(runSeed);
        Take();
        // Only now there are states that a line of the scene can ask for.
        Happen();
    }

    private static readonly ulong MessageLuck = Draws.Hash("messages that are lost");

    private ScriptWatcher TellOf(int program)
    {
        var first = plan.Programs[program].Script.FirstStep;
        return (micros, unit, transition) =>
        {
            watcher?.Taken(micros, program, first[unit] + transition);
            Taking?.Invoke(program, first[unit] + transition);
        };
    }

    /// <summary>Told of every transition taken, by program and step, and of nothing else; null for nobody.</summary>
    internal Action<int, int>? Taking { get; set; }

    /// <summary>Runs once, from the start to its end.</summary>
    /// <param name="runSeed">Seed of the run.</param>
    /// <param name="untilDecided">Stop as soon as pass or fail is certain; false to run to the end.</param>
    /// <param name="cancel">Stops it; looked at every half second of simulated time.</param>
    /// <param name="copySeed">Seed of the copy; null for that of the run, <see cref="Draws.BestCopy"/> for best values.</param>
    /// <exception cref="OperationCanceledException">When it was stopped.</exception>
    public BenchResult Go(long runSeed, bool untilDecided = true, CancellationToken cancel = default, long? copySeed = null) =>
        Go(runSeed, untilDecided, null, cancel, copySeed);

    internal BenchResult Go(
        long runSeed,
        bool untilDecided,
        IBenchWatcher? told,
        CancellationToken cancel = default,
        long? copySeed = null,
        IReadOnlyDictionary<int, double>? held = null
    )
    {
        Start((ulong)runSeed, (ulong)(copySeed ?? runSeed), told, held);
        var end = (long)Math.Round(plan.EndsS * 1e6);
        for (long look = 0; !(decided && untilDecided) && now < end; )
        {
            if (now >= look)
            {
                cancel.ThrowIfCancellationRequested();
                look = now + 500_000;
            }
            Step(end);
        }
        return Result();
    }

    /// <summary>
    /// Goes on to the next moment at which something happens. In one moment: bodies, ends and timers and messages, people, readings,
    /// what was commanded, goals.
    /// </summary>
    /// <param name="end">Not beyond this, µs.</param>
    internal void Step(long end)
    {
        var until = Math.Min(end, nextJudge);
        for (var i = 0; i < senses.Length; i++)
        {
            until = Sooner(until, senses[i].Next);
            if (senses[i].Waiting > 0)
                until = Sooner(until, senses[i].Due0);
        }
        for (var i = 0; i < pendingCount; i++)
            until = Sooner(until, pending[i].Due);
        until = Sooner(until, network.NextDue);
        for (var i = 0; i < happenings.Length; i++)
        {
            until = Sooner(until, happenings[i].Next);
            until = Sooner(until, happenings[i].Ends);
        }
        // Bodies go on by the clock until then, or until one of them has something to tell.
        interrupted = false;
        var still = Still();
        while (now < until && !interrupted)
        {
            var next = still ? until : Math.Min(until, now + plan.StepMicros);
            var dt = (next - now) * 1e-6;
            stepEnds = next;
            Packs(dt);
            MoveOn(dt);
            now = next;
            if (now < until && !interrupted)
                watcher?.Stepped(now);
        }
        Ends();
        watcher?.Passing(now);
        network.Pass(now);
        Take();
        Happen();
        Sense();
        Take();
        Obey();
        // Goals are asked a hundred times a second: what they speak of lasts longer.
        if (now >= nextJudge || now == end)
            Judge(now == end);
        if (now >= nextJudge)
            nextJudge += JudgeMicros;
        watcher?.Stepped(now);
    }

    private long Sooner(long than, long at) => at > now && at < than ? at : than;

    private bool interrupted;

    // True while no motor turns or pushes, nothing rolls, and nobody moves anything.
    private bool Still()
    {
        // Water runs on by itself: as fast at the end of a step as at its beginning while nothing turns.
        if (plan.Belt is not null)
            return false;
        for (var i = 0; i < movers.Length; i++)
            if (movers[i].Speed != 0 || movers[i].Telling > Telling.Hold || axes.Length > 0 && movers[i].ReleaseAt != long.MaxValue)
                return false;
        for (var i = 0; i < axes.Length; i++)
            if (axes[i].Sinking)
                return false;
        for (var i = 0; i < things.Length; i++)
            if (things[i].Vx != 0 || things[i].Vy != 0)
                return false;
        for (var i = 0; i < happenings.Length; i++)
            if (happenings[i].Active && plan.Happenings[i].Deed is Deed.Turn or Deed.Steer)
                return false;
        return true;
    }
}
