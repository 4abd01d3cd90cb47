using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Logbook;

/// <summary>A number that runs narrowed, taken over into Move, is drawn by the bench as it was narrowed.</summary>
public class NarrowedTests(ITestOutputHelper output)
{
    private static BenchPlan Plan(DemoRig rig, IReadOnlyDictionary<string, AcceptedNumber>? accepted) =>
        BenchPlan.Build(
            DemoBench.Copy(rig, 1, null, accepted),
            SceneParser.Parse(rig.Design.Scenes[0].Text, rig.Design).Scene,
            // Guests keep their numbers.
            (id, copy) => Farm.All(DateTime.UnixEpoch).FirstOrDefault(r => r.Id == id) is { } guest ? DemoBench.Copy(guest, copy) : null
        );

    // What each rig's first copy would be after its cures, so that measured numbers are narrowed too.
    private static Dictionary<string, AcceptedNumber> Tried(DemoRig rig)
    {
        var accepted = new Dictionary<string, AcceptedNumber>();
        var moves = DemoBench.Copy(rig, 1).Moves;
        foreach (var plan in moves.Plans)
            if (moves.InUse(plan) is { Value: not 0 } q && plan.Family != TrialFamily.Bracket)
                accepted[plan.Key] = new(
                    q.Value * 1.02,
                    Math.Abs(q.Value) * 0.02,
                    Math.Abs(q.Value) * 0.03,
                    5,
                    plan.Kind == TrialKind.Speed ? Math.Abs(q.Value) * 0.4 : plan.Usual,
                    null,
                    0,
                    0,
                    moves.Against(plan)
                );
        return accepted;
    }

    public static TheoryData<string, bool> Rigs()
    {
        var data = new TheoryData<string, bool>();
        foreach (var rig in Farm.All(DateTime.UnixEpoch))
        {
            data.Add(rig.Id, false);
            data.Add(rig.Id, true);
        }
        return data;
    }

    [Theory, MemberData(nameof(Rigs))]
    public void What_is_taken_over_is_drawn_as_it_was_narrowed(string id, bool tried)
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == id);
        var before = tried ? Tried(rig) : [];
        var plan = Plan(rig, before);
        var moves = DemoBench.Copy(rig, 1, null, before).Moves;
        var taken = 0;
        foreach (var spec in plan.Draws.Where(d => d.IsDoubted && d.Measured is { Part: "move" }))
        {
            var by = spec.Measured!;
            var motion = moves.Find(by.Name)!;
            double value = Math.Clamp(spec.Usual + 0.5 * spec.DoubtSd, spec.Min, spec.Max),
                sd = 0.6 * spec.DoubtSd;
            var accepted = new Dictionary<string, AcceptedNumber>(before)
            {
                [by.Name] = AcceptedNumber.By(
                    moves.Accepted(motion),
                    spec.Kind,
                    by.MotionSd(value, spec.EachSd),
                    by.Motion(value),
                    by.MotionSd(value, sd),
                    7,
                    moves.Against(motion)
                ),
            };
            var after = Plan(rig, accepted).Draws.FirstOrDefault(d => d.Name == spec.Name);
            Assert.True(after is not null, spec.Name);
            Assert.True(Math.Abs(after.Usual - value) <= 1e-6 * Math.Max(1, Math.Abs(value)), $"{spec.Name}: {after.Usual}, not {value}");
            Assert.True(Math.Abs(after.DoubtSd - sd) <= 0.02 * sd, $"{spec.Name}: known to {after.DoubtSd}, not {sd}");
            Assert.Equal(spec.Kind, after.Kind);
            Assert.Contains("then narrowed by 7 trials", after.Source);
            var moved = new CopyMoves(rig.Design, null, new Dictionary<string, IReadOnlyList<Trial>>(), accepted);
            // Narrowed is not tried: what must be found first still must.
            if (spec.Kind != Provenance.Measured && moved.Find(by.Name) is { } found)
                Assert.False(MotionView.Of(moved, found, null, 1).Accepted);
            taken++;
        }
        output.WriteLine($"{id}: {taken}");
    }

    [Fact]
    public void A_number_of_its_own_is_kept_beside_what_narrowed_it()
    {
        var was = new AcceptedNumber(100, 4, 2, 5, 600, 3, 1, 0.5);
        var now = AcceptedNumber.By(was, Provenance.Guessed, 9, 103, 2, 12, null);
        Assert.Equal(was with { Value = 103, MeanSd = 2, Narrowed = 12 }, now);
        Assert.True(now.Tried);
        Assert.Equal(Provenance.Measured, now.Came);
        var guess = AcceptedNumber.By(null, Provenance.Guessed, 9, 103, 2, 12, 40);
        Assert.False(guess.Tried);
        Assert.Equal((103, 2, 9, 0, 12), (guess.Value, guess.MeanSd, guess.MoveSd, guess.Trials, guess.Narrowed));
        Assert.Null(guess.Against);
        // Narrowed again, it still began as a guess.
        Assert.Equal(Provenance.Guessed, AcceptedNumber.By(guess, Provenance.Measured, 9, 104, 1, 14, null).Came);
    }
}
