using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Sensing;
using Check = Chiton.Core.Checking.Check;

namespace Chiton.Core.Tests.Checking;

public class CatalogueTests
{
    private static readonly RigJudgement Good = new([], null, "");

    private static CheckInput Input(string body, params string[] others)
    {
        var rig = FarmBench.Rig("program Test\n\n" + body);
        rig = rig with
        {
            Actuators =
            [
                .. rig.Actuators.Where(a => a.Name != "Lamp"),
                new("Lamp", ActuatorKind.Lamp),
                new("Hopper flap", ActuatorKind.RegulatedMotor),
            ],
            Programs = [rig.Programs[0], .. others.Select(o => new ProgramText(o, []))],
        };
        var programs = RigPrograms.Of(rig);
        foreach (var p in programs)
            Assert.True(
                p.Parsed.Diagnostics.Count == 0,
                string.Join('\n', p.Parsed.Diagnostics.Select(d => $"{p.Name} {d.Line}: {d.Message}"))
            );
        var explored = Explorer.Of(rig, programs, FarmBench.Calibrations());
        explored.Run(Explorer.StatesAfterEdit, Explorer.AskedAfterEdit);
        return new(
            rig,
            FarmBench.Motion(),
            new CopyMoves(
                rig,
                FarmBench.Motion(),
                new Dictionary<string, IReadOnlyList<Trial>>(),
                new Dictionary<string, AcceptedNumber>()
            ),
            FarmBench.Calibrations(),
            Good,
            programs,
            programs[0]
        )
        {
            Explored = explored,
        };
    }

    private static Check Of(string code) => Catalogue.All.Single(c => c.Code == code);

    private static Finding[] Find(string code, string body, params string[] others) => [.. Of(code).Find(Input(body, others))];

    /// <summary>Every check that has an example.</summary>
    public static TheoryData<string> Examples => [.. Catalogue.All.Where(c => c.Example is not null).Select(c => c.Code)];

    [Theory]
    [MemberData(nameof(Examples))]
    public void The_example_has_it_and_the_mended_one_does_not(string code)
    {
        var check = Of(code);
        var found = check.Find(Input(check.Example!)).ToArray();
        Assert.Contains(found, f => f.Code == code);
        // As bad as the catalogue says at its worst, and no worse.
        Assert.All(found, f => Assert.InRange(f.Severity, check.Worst, Severity.Advice));
        Assert.Empty(check.Find(Input(check.Mended!)));
        // A cure takes it away and leaves everything else as it was.
        foreach (var finding in found.Where(f => f.Cure is not null))
        {
            var lines = ("program Test\n\n" + check.Example).Split('\n');
            var before = lines.ToArray();
            foreach (var edit in finding.Cure!.Edits)
            {
                var old = lines[edit.Line - 1];
                lines[edit.Line - 1] = old[..(old.Length - old.TrimStart().Length)] + edit.Text;
            }
            Assert.Equal(finding.Cure.Edits.Count, before.Zip(lines).Count(p => p.First != p.Second));
            Assert.Empty(check.Find(Input(string.Join('\n', lines.Skip(2)))));
        }
    }

    // With CHITON_WRITE=1 the page is written anew (./dev docs).
    [Fact]
    public void The_page_says_what_the_catalogue_says()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Chiton.slnx")))
            folder = folder.Parent!;
        var page = Path.Combine(folder.FullName, "docs", "checks.md");
        if (Environment.GetEnvironmentVariable("CHITON_WRITE") == "1")
            File.WriteAllText(page, CataloguePage.Text());
        Assert.True(File.ReadAllText(page) == CataloguePage.Text(), "docs/checks.md is not what the catalogue says: run ./dev docs.");
        Assert.All(Catalogue.All, c => Assert.Contains($"`{c.Code}`, at its worst", CataloguePage.Text()));
    }

    [Fact]
    public void Every_code_stands_in_the_catalogue_once_and_has_words()
    {
        string[] codes = [.. Catalogue.All.Select(c => c.Code), .. Catalogue.Refused.Select(n => n.Code)];
        Assert.True(codes.Length >= 64, $"{codes.Length} codes");
        Assert.Equal(codes.Length, codes.Distinct().Count());
        Assert.All(Catalogue.All, c => Assert.True(c.Title.Length is > 3 and < 45 && c.Says.EndsWith('.'), c.Code));
        Assert.All(Catalogue.All, c => Assert.Contains(c.Part, new[] { "rig", "sense", "move", "program" }));
    }

    private const string Rolling = "region Main\n  state Rolling, initial\n    while here: ";

    [Theory]
    // The edge itself, a slow one, two flashes and no more.
    [InlineData("blink Lamp 0.2 s on 0.2 s off", 0)]
    [InlineData("blink Lamp 0.17 s on 0.17 s off", 0)]
    [InlineData("blink Lamp 0.05 s on 0.05 s off 2 times", 0)]
    [InlineData("blink Lamp 0.05 s on 0.05 s off 4 times", 1)]
    [InlineData("blink Lamp 0.16 s on 0.16 s off", 1)]
    [InlineData("blink Lamp 300 ms on 20 ms off", 1)]
    public void A_lamp_flashes_too_fast_above_three_a_second(string command, int found) =>
        Assert.Equal(found, Find("flashing", Rolling + command + "\n    after 9 s: go Rolling\n").Length);

    [Fact]
    public void A_flash_that_a_constant_says_is_seen_too()
    {
        var found = Assert.Single(Find("flashing", "const beat = 0.1 s\n\n" + Rolling + "blink Lamp beat on beat off\n"));
        Assert.Equal(("Lamp", "Lamp flashes 5 times a second"), (found.Device, found.Headline));
        // What stands in a constant may be meant for other things: no button changes it here.
        Assert.Null(found.Cure);
    }

    [Theory]
    [InlineData("go Rolling", "", 1)]
    // Read in a guard, in what is shown, in what another value becomes.
    [InlineData("go Rolling", "    when n = 3: go Over\n", 0)]
    [InlineData("show n; go Rolling", "", 0)]
    [InlineData("set n to n + 1; go Rolling", "", 0)]
    public void A_value_that_nobody_reads_is_said(string does, string more, int found) =>
        Assert.Equal(
            found,
            Find(
                "value-unused",
                $"var n = 0\n\n{Rolling}run Trolley at 40 %\n    after 2 s: set n to 1; {does}\n{more}\n  state Over, final\n"
            ).Length
        );

    [Theory]
    [InlineData("    when Tag eye becomes bed tag if n = 1: go Over\n    when Tag eye becomes bed tag: go Past\n", 0)]
    [InlineData("    when Tag eye becomes bed tag for 2 readings: go Over\n    when Tag eye becomes bed tag: go Past\n", 0)]
    [InlineData("    after 2 s: go Over\n    after 3 s: go Past\n", 0)]
    [InlineData("    when Tag eye becomes bed tag: go Past\n    when Tag eye becomes bed tag if n = 1: go Over\n", 1)]
    [InlineData("    after 2 s: go Over\n    after 2 s: go Past\n", 1)]
    public void The_second_of_two_that_wait_for_the_same_is_found(string lines, int found)
    {
        var all = Find("same-trigger", $"var n = 0\n\n{Rolling}run Trolley at 40 %\n{lines}\n  state Over, final\n\n  state Past, final\n");
        Assert.Equal(found, all.Length);
        Assert.All(all, f => Assert.Equal(3, f.LineOfOwner));
    }

    [Fact]
    public void A_routine_done_only_by_one_that_nobody_does_is_done_by_nobody()
    {
        const string routine = "  state Bow, initial\n    on entry: {0}\n    after 1 s: go Over\n\n  state Over, final\n";
        var body =
            Rolling
            + "run Trolley at 40 %\n    after 2 s: go Rolling\n\nroutine Greet\n"
            + string.Format(null, routine, "do Nod")
            + "\nroutine Nod\n"
            + string.Format(null, routine, "show \"hm\"");
        Assert.Equal(["Nobody does Greet", "Nobody does Nod"], Find("routine-unused", body).Select(f => f.Headline));
        Assert.Empty(
            Find("routine-unused", body.Replace("while here: run Trolley at 40 %", "on entry: do Greet", StringComparison.Ordinal))
        );
    }

    private static string Other(string sentence) =>
        $"program Shore\n\nregion Main\n  state Waiting, initial\n    {sentence}\n\n  state Over, final\n";

    [Theory]
    [InlineData("when told \"bed 3\": go Over", 0)]
    [InlineData("when told \"bed 3\" from Test: go Over", 0)]
    [InlineData("when told \"bed 4\": go Over", 1)]
    [InlineData("when told \"Bed  3\": go Over", 1)]
    public void A_message_that_nobody_listens_for_is_found(string sentence, int found)
    {
        var all = Find("unheard", Rolling + "run Trolley at 40 %\n    after 2 s: tell Shore \"bed 3\"; go Rolling\n", Other(sentence));
        Assert.Equal(found, all.Length);
        if (sentence.Contains("Bed  3", StringComparison.Ordinal))
            Assert.Contains("it waits for “Bed  3”", all[0].Say);
    }

    [Theory]
    [InlineData("tell Test \"go on\"", "", "none")]
    [InlineData("tell Test \"stop\"", "", "Stops")]
    [InlineData("show \"go on\"", "    after 9 s: go Over\n", "Risky")]
    public void Waiting_for_what_nobody_says_is_found(string says, string more, string severity)
    {
        var all = Find(
            "waits-forever",
            $"region Main\n  state Waiting, initial\n    when told \"go on\": go Over\n{more}\n  state Over, final\n",
            Other($"after 2 s: {says}; go Over")
        );
        Assert.Equal(severity, all.Length == 0 ? "none" : all[0].Severity.ToString());
    }

    [Fact]
    public void A_program_that_cannot_be_read_hides_nothing_of_the_others_and_is_no_answer()
    {
        const string body =
            Rolling + "blink Lamp 0.1 s on 0.1 s off\n    when told \"go on\": go Rolling\n    when told \"go\" from Shore: go Rolling\n";
        var sound = Input(body, Other("after 2 s: tell Test \"go\"; go Over"));
        Report Of(string other)
        {
            var rig = sound.Rig with { Programs = [sound.Rig.Programs[0], new(other, [])] };
            var ages = new Dictionary<string, CalibrationAge>();
            return Report.Of(rig, sound.Motion, sound.Moves, sound.Calibrations, ages, RigPrograms.Of(rig));
        }
        // The wiring of this rig is not the matter here.
        string[] Codes(Report r) => [.. r.Findings!.Select(f => f.Code).Where(c => c is "flashing" or "waits-forever")];
        Assert.Equal(["flashing", "waits-forever"], Codes(Of(Other("after 2 s: tell Test \"go\"; go Over"))));
        // What it says nobody knows: it may be what is waited for.
        var half = Of("program Shore\n\nregion Main\n  state Waiting, initial\n    nonsense\n");
        Assert.Equal(["flashing"], Codes(half));
        var looked = half.Looked.ToDictionary(l => l.Code);
        Assert.Equal(LookedState.Found, looked["flashing"].State);
        Assert.Equal(
            (LookedState.Cannot, "Shore has 1 fault: it was not looked at, the others were."),
            (looked["same-trigger"].State, looked["same-trigger"].Why)
        );
    }

    [Theory]
    [InlineData("    when Hopper flap stalls: go Stuck\n", 0)]
    [InlineData("    after 9 s: go Stuck\n", 0)]
    [InlineData("    when Hopper flap gives up: go Stuck\n", 0)]
    [InlineData("all", 0)]
    [InlineData("", 1)]
    public void Giving_up_needs_a_way_on(string way, int found)
    {
        var body =
            "region Main\n  state Opening, initial\n    on entry: run Hopper flap 90 motor deg at 30 % up to 2 s\n"
            // What a state began is all done once it has given up too.
            + (way == "all" ? "    when all done: go Open\n" : $"    when Hopper flap is done: go Open\n{way}")
            + "\n  state Open, final\n\n  state Stuck, final\n";
        Assert.Equal(found, Find("gave-up", body).Length);
    }

    [Theory]
    [InlineData("run Trolley at 9 %", "Stops")]
    [InlineData("run Trolley back at 10 %", "Stops")]
    [InlineData("run Trolley at -10 %", "Stops")]
    [InlineData("run Trolley at 11 %", "none")]
    [InlineData("run Trolley at 0 %", "none")]
    // A motor that holds its speed takes what power it needs.
    [InlineData("run Hopper flap at 5 %", "none")]
    public void Too_little_power_moves_nothing(string command, string severity)
    {
        var all = Find("too-little", $"{Rolling}{command}\n    after 9 s: go Rolling\n");
        Assert.Equal(severity, all.Length == 0 ? "none" : all[0].Severity.ToString());
    }

    [Fact]
    public void A_least_power_that_is_only_guessed_stops_nothing()
    {
        var input = Input($"const slow = 12 %\n\n{Rolling}run Trolley at slow\n");
        var known = input.Motion!.LeastPowerPercent;
        Finding? With(Quantity least) =>
            Of("too-little").Find(input with { Motion = input.Motion with { LeastPowerPercent = least } }).SingleOrDefault();
        Assert.Equal(Severity.Stops, With(known with { Value = 20, Kind = Provenance.Measured })!.Severity);
        var guessed = With(known with { Value = 20, Kind = Provenance.Guessed })!;
        Assert.Equal(Severity.Risky, guessed.Severity);
        Assert.Contains("Trials in Move find out", guessed.Say);
        // Within two spreads it may move, and may not.
        Assert.Equal("Trolley may not move", With(known with { Value = 11, Kind = Provenance.Measured, MeanSd = 1 })!.Headline);
        Assert.Null(With(known with { Value = 9, Kind = Provenance.Measured, MeanSd = 1 }));
    }

    [Fact]
    public void A_key_stays_when_lines_are_written_above_and_differs_between_alike_findings()
    {
        const string one =
            "blink Lamp 0.05 s on 0.05 s off\n    on exit: blink Lamp 0.05 s on 0.05 s off 9 times\n    after 1 s: go Rolling\n";
        string[] Keys(string body) => [.. Catalogue.Find([Input(body)]).Where(f => f.Code == "flashing").Select(f => f.Key)];
        var before = Keys(Rolling + one);
        Assert.Equal(2, before.Distinct().Count());
        Assert.Equal(before, Keys("var n = 0\n# A word above.\nvar m = 1\n\n" + Rolling + one));
        Assert.NotEqual(before, Keys((Rolling + one).Replace("Rolling", "Calling", StringComparison.Ordinal)));
    }

    [Fact]
    public void What_was_looked_for_is_told_and_silence_is_no_answer()
    {
        var input = Input(Of("flashing").Example!);
        var looked = Catalogue.Looked([input], Catalogue.Find([input]), null).ToDictionary(l => l.Code);
        Assert.Equal((LookedState.Found, 1), (looked["flashing"].State, looked["flashing"].Count));
        Assert.Equal(LookedState.Nothing, looked["same-trigger"].State);
        Assert.Equal(LookedState.NotYet, looked["goal-missed"].State);
        // On a rig without rails nobody looks for markers, and says so.
        var floor = input with
        {
            Rig = input.Rig with { Rail = null },
        };
        Assert.Equal(
            (LookedState.Cannot, "No vehicle of this rig runs on a rail."),
            Catalogue.Looked([floor], [], null).Where(l => l.Code == "marker-rest").Select(l => (l.State, l.Why!)).Single()
        );
        Assert.All(Catalogue.Looked([], null, "Nothing can be read."), l => Assert.NotEqual(LookedState.Nothing, l.State));
    }
}
