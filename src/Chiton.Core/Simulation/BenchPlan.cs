using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.Ground;
using Chiton.Core.Simulation.People;
using Chiton.Core.Simulation.Scenes;
using Chiton.Core.Simulation.Senses;

namespace Chiton.Core.Simulation;

/// <summary>A number that is the same in every run, or drawn once a run where its line says what it varies by.</summary>
/// <param name="Usual">Its value where nothing varies.</param>
/// <param name="At">Where it is drawn; −1 where it does not vary.</param>
/// <param name="By">What the drawn number is multiplied with.</param>
/// <param name="Plus">What is added to it.</param>
internal readonly record struct Num(double Usual, int At = -1, double By = 1, double Plus = 0)
{
    /// <summary>Its value in a run.</summary>
    public double In(double[] drawn) => At >= 0 ? drawn[At] * By + Plus : Usual;
}

/// <summary>Something that is lit, sounds or shows.</summary>
internal sealed record OutputSpec(string Name, ActuatorKind Kind, int Rig);

/// <summary>
/// Everything that runs of a scene need, bound once for a rig, a copy, a scene and its programs: flat rows of specs that any number of
/// runs on any number of threads share.
/// </summary>
public sealed partial class BenchPlan
{
    private BenchPlan(SceneNode scene, BenchModel model) => (Scene, Model) = (scene, model);

    /// <summary>The scene.</summary>
    public SceneNode Scene { get; }

    internal BenchModel Model { get; }

    /// <summary>The rigs in it, the own one first.</summary>
    public IReadOnlyList<RigDesign> Rigs { get; private init; } = [];

    /// <summary>Every number that is drawn, in the order kept.</summary>
    public IReadOnlyList<DrawSpec> Draws { get; private set; } = [];

    /// <summary>Goals and nevers, of the programs and then of the scene.</summary>
    public IReadOnlyList<BenchRule> Rules { get; private set; } = [];

    /// <summary>The programs that run.</summary>
    public IReadOnlyList<NetworkProgram> Programs { get; private set; } = [];

    /// <summary>What is worth knowing before a run: what does nothing here, and why; which goal cannot be judged.</summary>
    public IReadOnlyList<SceneFinding> Findings { get; private set; } = [];

    /// <summary>How long a run lasts at most, s.</summary>
    public double EndsS { get; private set; }

    internal DrawSpec[] DrawRow { get; private set; } = [];

    /// <summary>The same bench with other numbers: what the controller knows stays, what is true changes.</summary>
    /// <param name="change">What becomes of each number; its name stays.</param>
    public BenchPlan WithNumbers(Func<DrawSpec, DrawSpec> change)
    {
        var made = (BenchPlan)MemberwiseClone();
        made.DrawRow = [.. DrawRow.Select(change)];
        made.Draws = made.DrawRow;
        return made;
    }

    /// <summary>The same bench with time for everything: goals that are to be reached within a time may be reached at any, and a run lasts
    /// longer.</summary>
    /// <param name="endsS">How long a run lasts at most, s.</param>
    public BenchPlan WithoutLimits(double endsS)
    {
        var made = (BenchPlan)MemberwiseClone();
        made.EndsS = endsS;
        made.Rules =
        [
            .. Rules.Select(r =>
                r is { IsGoal: true, Clock: RuleClock.Within or RuleClock.Before } && r.Micros < long.MaxValue
                    ? r with
                    {
                        Micros = long.MaxValue,
                    }
                    : r
            ),
        ];
        return made;
    }

    /// <summary>The time within which a goal is to be reached, s; null where none is said.</summary>
    /// <param name="rule">Which of the rules.</param>
    public double? LimitS(int rule) =>
        rule >= 0 && Rules[rule] is { IsGoal: true, Clock: RuleClock.Within or RuleClock.Before, Micros: < long.MaxValue } limited
            ? limited.Micros / 1e6
            : null;

    /// <summary>The programs that run on the own rig, by their place among all.</summary>
    public IReadOnlyList<int> OwnPrograms => [.. Enumerable.Range(0, Programs.Count).Where(p => RigOf[p] == 0)];

    internal MoverSpec[] Movers { get; private set; } = [];
    internal DriveSpec[] Drives { get; private set; } = [];
    internal VehicleSpec[] Vehicles { get; private set; } = [];
    internal AxisSpec[] Axes { get; private set; } = [];
    internal OutputSpec[] Outputs { get; private set; } = [];
    internal SenseSpec[] Senses { get; private set; } = [];
    internal ThingSpec[] Things { get; private set; } = [];
    internal string[] Surfaces { get; private set; } = [];
    internal int Ground { get; private set; }

    /// <summary>The surface of each rig's body, by its place; −1 where the scene gives none.</summary>
    internal int[] GuestSurfaces { get; private set; } = [];
    internal bool IsDeck { get; private set; }
    internal BeltSpec? Belt { get; private set; }
    internal TankSpec? Tank { get; private set; }
    internal HappeningSpec[] Happenings { get; private set; } = [];

    /// <summary>What a person can do while it plays, and which of the happenings that is; −1 where it cannot be done. Empty unless the
    /// plan was built to play.</summary>
    internal (Hand Hand, int Happening)[] Hands { get; private set; } = [];

    /// <summary>Starts that are so in some runs only: which drawn numbers take the place of which.</summary>
    internal (double Share, ulong Stream, (int To, int From)[] Pairs)[] Insteads { get; private set; } = [];
    internal ScoreSpec[] Scores { get; private set; } = [];
    internal Order[][][] Orders { get; private set; } = [];
    internal Target[][] Targets { get; private set; } = [];
    internal int[] RigOf { get; private set; } = [];
    internal bool[][] AsksTurns { get; private set; } = [];
    internal long StepMicros { get; private set; }
    internal long MessageMicros { get; private set; }
    internal int Reaction { get; private set; } = -1;
    internal PackSpec[] Packs { get; private set; } = [];

    /// <summary>The movers that each pack drives, and the things that roll on.</summary>
    internal int[][] MoversOf { get; private set; } = [];
    internal int[] Rolling { get; private set; } = [];

    /// <summary>True where a mechanism can hold a thing.</summary>
    internal bool Carries { get; private set; }

    /// <summary>Friction of a thing on the floor where its line says none: usual for wood and plastic on a smooth floor.</summary>
    internal const double FloorFriction = 0.4;

    /// <summary>What is wired where it cannot work, and does nothing: motors, sensors, lamps and the like.</summary>
    internal (bool[] Movers, bool[] Senses, bool[] Outputs) Dead { get; private set; } = ([], [], []);

    /// <summary>Movers whose full speed was worked out through their least power, with the power at which it was tried and that least
    /// power, %.</summary>
    internal (int Mover, double AtPercent, double LeastPercent)[] Linked { get; private set; } = [];

    /// <summary>The pack of a rig: what it gives, and what pulls at it.</summary>
    internal readonly record struct PackSpec(int Volts, int Nominal, int Ohm, int Idle, int Capacity, bool Rail);

    /// <summary>What a device of a program is in the world.</summary>
    internal enum TargetKind : byte
    {
        Nothing,
        Drive,
        Vehicle,
        Axis,
        Output,
    }

    internal readonly record struct Target(TargetKind Kind, int Index);

    /// <summary>What a command means, worked out once.</summary>
    internal enum OrderKind : byte
    {
        None,
        Power,
        Speed,
        Amount,
        Straight,
        Turn,
        Steer,
        Follow,
        Place,
        Home,
        Step,
        Stop,
        On,
        Off,
        Blink,
        Sound,
        Show,
    }

    internal readonly record struct Order(OrderKind Kind)
    {
        /// <summary>1 or −1: which way.</summary>
        public double Sign { get; init; }

        /// <summary>What its value is multiplied with, to be in the mover's own unit a second.</summary>
        public double Scale { get; init; }

        /// <summary>The same for its amount.</summary>
        public double Way { get; init; }
        public bool HasAmount { get; init; }
        public StopMode Stop { get; init; }
        public double Place { get; init; }
        public bool Pivoting { get; init; }
        public bool Left { get; init; }
        public int Sense { get; init; }
        public double Point { get; init; }
        public double Side { get; init; }
        public string? Text { get; init; }

        /// <summary>One wheel of a drive, by its place and one more; 0 for both.</summary>
        public int Wheel { get; init; }
        public bool Percent { get; init; }
    }

    /// <summary>Binds a scene.</summary>
    /// <param name="copy">What is known of the copy.</param>
    /// <param name="scene">A scene without faults.</param>
    /// <param name="guests">Finds other rigs; null where there are none.</param>
    /// <param name="model">Changes of the model for tests; null for none.</param>
    /// <param name="plays">True to bind what a person can do while it plays as well.</param>
    /// <exception cref="InputProblem">When a program has faults, or what is known of the copy does not do.</exception>
    public static BenchPlan Build(BenchCopy copy, SceneNode scene, GuestFinder? guests = null, BenchModel? model = null, bool plays = false)
    {
        List<(BenchCopy Copy, string? As, SceneLine? Line)> rigs = [(copy, null, null)];
        foreach (var line in scene.All("guest"))
        {
            if (rigs.Count > MostGuests)
                throw new InputProblem("scene", $"Line {line.Line}: at most {MostGuests} guests.");
            rigs.Add(
                (
                    guests?.Invoke(line.Name("rig")!, (int)line.Value("n")!.Value)
                        ?? throw new InputProblem(
                            "scene",
                            $"Line {line.Line}: there is no copy {line.Number("n")!.Of} of a rig “{line.Name("rig")}” here."
                        ),
                    line.Name("name"),
                    line
                )
            );
        }
        var plan = new BenchPlan(scene, model ?? BenchModel.Usual) { Rigs = [.. rigs.Select(r => r.Copy.Rig)] };
        new Builder(plan, scene, rigs).Build(plays);
        return plan;
    }

    /// <summary>Most guests of a scene.</summary>
    public const int MostGuests = 20;

    private sealed partial class Builder(BenchPlan plan, SceneNode scene, List<(BenchCopy Copy, string? As, SceneLine? Line)> rigs)
    {
        private readonly List<DrawSpec> draws = [];
        private readonly Dictionary<string, int> drawAt = [];
        private readonly List<SceneFinding> found = [];
        private readonly List<string> surfaces = [];

        public void Build(bool plays)
        {
            plan.EndsS = scene.EndsS;
            plan.StepMicros = plan.Model.StepMicros ?? (long)Math.Round((scene.First("step")?.Value("t") ?? 0.002) * 1e6);
            Bodies();
            Surfaces();
            Vary();
            plan.Layout = Ground(scene);
            plan.IsDeck = plan.Layout.Deck is not null;
            places.AddRange(plan.Layout.Places);
            Placings();
            ThingsThere();
            BeltAndWater();
            Senses();
            Sized();
            Programs();
            Timed();
            Rules();
            Wired();
            // Only now the programs are bound.
            if (plays)
                Hands();
            // Weights too small to be noticed by motors of any usual strength draw nothing.
            var heaviest = plan.Things.Select(t => t.WeightN.Usual).DefaultIfEmpty(0).Max();
            foreach (var axis in axes)
                if (axis.NmmPerN * heaviest > 18)
                    axis.Torque = Guess(axis.Rig, $"torque of {axis.Name}", 180, "N mm", 120, 20);
            foreach (var drive in drives)
                if (FloorFriction * heaviest > 1)
                    drive.Pushes = Guess(drive.Rig, $"pushing force of {drive.Name}", 8, "N", 6, 1);
            plan.Surfaces = [.. surfaces];
            plan.GuestSurfaces = [.. rigs.Select(r => r.As is { } guest ? surfaces.IndexOf(guest) : -1)];
            plan.LayoutIn = LaidOut;
            if (varies.Count + sometimes.Count > 0 && plan.Model.Draws)
                plan.SceneIn = InRun;
            plan.DrawRow = plan.Model.Draws
                ? [.. draws.Select(d => plan.Model.SpreadsInDoubt ? d : d with { Dof = 0 })]
                :
                [
                    .. draws.Select(d =>
                        d with
                        {
                            DoubtSd = 0,
                            ChanceSd = 0,
                            EachSd = 0,
                            Dof = 0,
                            Usual = d.To is { } to ? (d.Usual + to) / 2 : d.Usual,
                            To = null,
                        }
                    ),
                ];
            plan.Draws = plan.DrawRow;
            plan.Findings = found;
            plan.Rolling = [.. Enumerable.Range(0, plan.Things.Length).Where(t => plan.Things[t].Rolls)];
            // What rides on a rig with one drive rides on that.
            foreach (var axis in plan.Axes)
                axis.Drive = Array.FindIndex(plan.Drives, d => d.Rig == axis.Rig);
            plan.Carries =
                plan.Things.Any(t => t.Carrier >= 0 || t.Drive >= 0)
                || plan.Things.Length > 0 && plan.Axes.Any(a => a.Grips || a.Forks && a.Drive >= 0);
            plan.MoversOf =
            [
                .. plan.Packs.Select((_, r) => Enumerable.Range(0, plan.Movers.Length).Where(m => plan.Movers[m].Rig == r).ToArray()),
            ];
        }

        // ---- numbers ----

        private string In(int rig, string name) => rigs[rig].As is { } guest ? $"{guest}'s {name}" : name;

        private int Draw(DrawSpec spec)
        {
            // One number, one stream: what is asked for twice is the same.
            if (drawAt.TryGetValue(spec.Name, out var at))
                return at;
            drawAt[spec.Name] = draws.Count;
            draws.Add(spec);
            return draws.Count - 1;
        }

        private int Draw(int rig, string name, Quantity q, Measuring? measured = null) =>
            Draw(DrawSpec.Of(In(rig, name), q) with { Measured = measured });

        // Five more trials of a motion, at the accuracy of its kind; null where the rig has no such motion, or is a guest.
        private Measuring? Trial(int rig, string mechanism, TrialKind kind, Quantity q, double by = 1)
        {
            var moves = rigs[rig].Copy.Moves;
            if (rig > 0 || by == 0 || moves.Plans.FirstOrDefault(p => p.Mechanism == mechanism && p.Kind == kind) is not { } plan)
                return null;
            var made = moves.Accepted(plan)?.Trials ?? 0;
            var sd = Math.Abs(by) * Trials.After(plan, q.Value / by, q.MoveSd / Math.Abs(by), made);
            return new("move", plan.Key, sd, $"Five trials of “{plan.Title}”", plan.Kind == TrialKind.Square ? 4 : 2)
            {
                Dof = plan.Family == TrialFamily.Bracket ? 0 : made + 4,
                By = by,
            };
        }

        // A length of the design that was never measured, held against a ruler.
        private static Measuring? Ruler(int rig, string device, Quantity q) =>
            rig > 0 || q.Kind != Provenance.Guessed ? null : new("rig", device, 0.5, "Measuring it with a ruler", 1);

        private int Fixed(string name, double value, string unit = "") =>
            Draw(new(name, unit, Provenance.Chosen, "", value, 0, 0, double.MinValue, double.MaxValue));

        private int Guess(
            int rig,
            string name,
            double value,
            string unit,
            double span,
            double min = 0,
            (string On, TrialKind Kind)? tried = null
        )
        {
            var q = new Quantity(value, unit, Provenance.Guessed, "usual for its kind, never tried", 0, 0, span, min);
            return Draw(rig, name, q, tried is { } t ? Trial(rig, t.On, t.Kind, q) : null);
        }

        // A number of the scene, drawn once a run.
        private int Draw(SceneLine line, string slot, string say, double min = double.MinValue) =>
            Draw(line, line.Number(slot)!, SceneForms.Of(line.Key)!.UnitOf(slot), say, min);

        private int Draw(SceneLine line, SceneNumber n, string unit, string say, double min = double.MinValue) =>
            Draw(
                new(
                    say,
                    unit,
                    line.Kind,
                    $"line {line.Line} of the scene",
                    n.Of.In(unit),
                    0,
                    n.GiveOrTake?.In(unit) ?? 0,
                    min,
                    double.MaxValue,
                    n.To?.In(unit)
                )
            );

        // A number that few runs vary: drawn only where it does.
        private Num Some(SceneLine line, string slot, string say, double by = 1, double otherwise = 0) =>
            line.Number(slot) is not { } n ? new(otherwise)
            : n.Varies ? new(line.Value(slot)!.Value * by, Draw(line, slot, say, 0), by)
            : new(line.Value(slot)!.Value * by);

        private static Amount Of(SceneNumber? n, string unit) =>
            n is null ? Amount.None : new(n.Of.In(unit), n.GiveOrTake?.In(unit) ?? 0, n.To?.In(unit) ?? double.NaN);

        private InputProblem Problem(SceneLine line, string message) => new("scene", $"Line {line.Line}: {message}");
    }
}
