using Chiton.Core.Classroom;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Parts;

/// <summary>What lessons are made of, on all machines of the farm: starts, gaps, faults, changed sentences, what is proposed.</summary>
public class LessonMakingTests
{
    private static readonly (string Id, RigDesign Rig)[] Rigs =
    [
        .. Farm.Missing(DateTime.UnixEpoch, new HashSet<string>()).Select(r => (r.Id, r.Design)),
    ];

    private static Vocabulary Words(RigDesign rig) => Vocabulary.For(rig, rig.Program);

    private static ParseResult Read(RigDesign rig, string? script = null) => ScriptParser.Parse(script ?? rig.Program.Script, Words(rig));

    private static RigDesign Rig(string id) => Rigs.Single(r => r.Id == id).Rig;

    private static Lesson About(string id, StartKind start = StartKind.AsItIs, string script = "", string scene = "") =>
        LessonStart.About(id, Rig(id), []) with
        {
            Start = start,
            Script = script,
            Scene = scene,
        };

    [Fact]
    public void Any_rig_makes_a_lesson_that_keeps_all_rules_at_once()
    {
        Assert.True(Rigs.Length >= 8);
        foreach (var (id, rig) in Rigs)
        {
            var need = new Require();
            LessonRules.Check(need, new("A course", "", [LessonStart.About(id, rig, []), LessonStart.Own([])]), a => a == id ? rig : null);
            need.Done();
            Assert.Equal(DoneKind.Rate, LessonStart.About(id, rig, []).Done.Kind);
            Assert.Contains(rig.Name, LessonStart.About(id, rig, []).Task);
        }
        Assert.Equal("Seed trolley 2", LessonStart.About("seed-trolley", Rig("seed-trolley"), ["seed trolley"]).Name);
        var silent = Rig("seed-trolley") with { Programs = [new("program Nothing\n", [])] };
        Assert.Equal(DoneKind.Answer, LessonStart.About("x", silent, []).Done.Kind);
    }

    [Fact]
    public void A_team_begins_with_what_the_lesson_says_and_everything_else_is_the_rigs()
    {
        var rig = Rig("seed-trolley");
        Assert.Equal(rig.Program, LessonStart.Of(rig, About("seed-trolley")).Program);
        var empty = LessonStart.Of(rig, About("seed-trolley", StartKind.Empty));
        Assert.Equal("program Seed trolley\n", empty.Program.Script);
        Assert.Equal("no state", Assert.Single(Read(rig, empty.Program.Script).Diagnostics).Found);
        Assert.Empty(empty.Program.Marks);
        Assert.Equal(rig with { Programs = [], Walks = [] }, empty with { Programs = [], Walks = [] });
        var gaps = LessonStart.Of(rig, About("seed-trolley", StartKind.Gaps, "program Seed trolley\n\nvar beds = 0\n"));
        Assert.Contains("var beds = 0", gaps.Program.Script);
        // Walks are answers too: only those go along that the lesson names.
        Assert.True(rig.Walks.Count > 0);
        Assert.Empty(gaps.Walks);
        var shown = LessonStart.Of(rig, About("seed-trolley") with { Walks = [rig.Walks[0].Name] });
        Assert.Equal([rig.Walks[0].Name], shown.Walks.Select(w => w.Name));
    }

    [Fact]
    public void The_scene_of_a_lesson_is_the_one_that_counts_and_no_other()
    {
        static (string Name, bool Counts)[] Scenes(RigDesign rig) =>
            [.. rig.Scenes.Select(s => SceneParser.Parse(s.Text, rig).Scene).Select(s => (s.Name, s.Counts))];
        var several = Rigs.Where(r => r.Rig.Scenes.Count > 1).ToArray();
        Assert.NotEmpty(several);
        foreach (var (_, rig) in several)
        foreach (var (name, _) in Scenes(rig))
        {
            var counted = Scenes(LessonStart.Counting(rig, name));
            Assert.Equal(name, counted[0].Name);
            Assert.DoesNotContain(counted, s => s.Counts);
            Assert.Equal(Scenes(rig).Select(s => s.Name).Order(), counted.Select(s => s.Name).Order());
        }
        var all = several[0].Rig;
        // One that says that it counts loses the word, and nothing else.
        var second = all.Scenes[1];
        var loud = all with { Scenes = [all.Scenes[0], second with { Text = second.Text.TrimEnd() + "\ncounts\n" }] };
        Assert.Contains(Scenes(loud), s => s.Counts);
        Assert.Equal(
            LessonStart.Counting(all, Scenes(all)[0].Name).Scenes[1].Text.TrimEnd(),
            LessonStart.Counting(loud, Scenes(all)[0].Name).Scenes[1].Text.TrimEnd()
        );
        Assert.Equal(all, LessonStart.Counting(all, "no such scene"));
    }

    [Fact]
    public void What_is_left_out_is_gone_with_its_comments_and_the_rest_stays()
    {
        foreach (var (id, rig) in Rigs)
        {
            var sound = Read(rig);
            var sentences = LessonStart.Sentences(sound.Program);
            Assert.NotEmpty(sentences);
            foreach (var s in sentences)
            {
                var (script, answer) = LessonStart.Without(rig.Program.Script, sound.Program, [s.Line]);
                var changes = ProgramDifference.Between(sound.Program, Read(rig, script).Program);
                Assert.True(changes.Count == 1, $"{id} {s.Line}: {string.Join(" ", changes.Select(c => c.Say))}");
                Assert.Equal((ChangeKind.TakenOut, s.Text), (changes[0].Kind, changes[0].Before));
                Assert.Equal($"In {s.Where}: {s.Text}.", answer);
            }
            var all = LessonStart.Without(rig.Program.Script, sound.Program, [.. sentences.Select(s => s.Line)]);
            Assert.Empty(LessonStart.Sentences(Read(rig, all.Script).Program));
        }
        var trolley = Read(Rig("seed-trolley"));
        Assert.Throws<InputProblem>(() => LessonStart.Without(Rig("seed-trolley").Program.Script, trolley.Program, []));
        Assert.Throws<InputProblem>(() => LessonStart.Without(Rig("seed-trolley").Program.Script, trolley.Program, [1]));
        Assert.Throws<InputProblem>(() => LessonStart.Without(Rig("seed-trolley").Program.Script, trolley.Program, [9999]));
        var (without, _) = LessonStart.Without(
            Rig("seed-trolley").Program.Script,
            trolley.Program,
            [LessonStart.Sentences(trolley.Program).Single(s => s.Text == "when Tag eye becomes sleepers: go Rolling").Line]
        );
        Assert.DoesNotContain("The tag is behind it", without);
    }

    [Fact]
    public void Every_fault_is_one_changed_sentence_that_can_be_read()
    {
        var kinds = new HashSet<FaultKind>();
        foreach (var (id, rig) in Rigs)
        {
            var sound = Read(rig);
            var faults = SentenceFaults.In(rig.Program.Script, Words(rig));
            Assert.True(faults.Count >= 5, $"{id}: {faults.Count}");
            Assert.Equal(faults.Count, faults.Select(f => f.Script).Distinct().Count());
            foreach (var fault in faults)
            {
                kinds.Add(fault.Kind);
                var read = Read(rig, fault.Script);
                Assert.Empty(read.Diagnostics);
                var changes = ProgramDifference.Between(sound.Program, read.Program);
                Assert.True(changes.Count == 1, $"{id} {fault.Say}: {string.Join(" ", changes.Select(c => c.Say))}");
                Assert.Equal((fault.Before, fault.After), (changes[0].Before, changes[0].After));
                Assert.StartsWith($"In {fault.Where} ", fault.Say);
                Assert.True(
                    fault.Kind switch
                    {
                        FaultKind.WayOut => fault.After is null,
                        FaultKind.Stop => fault.After is null || !fault.After.Contains("stop"),
                        _ => fault.After is not null,
                    }
                );
            }
        }
        Assert.Equal(Enum.GetValues<FaultKind>().Length, kinds.Count);
        var trolley = Rig("seed-trolley");
        Assert.Empty(SentenceFaults.In(trolley.Program.Script + "    what is this\n", Words(trolley)));
        Assert.Contains(
            SentenceFaults.In(trolley.Program.Script, Words(trolley)),
            f => f.Kind == FaultKind.Count && f.After == "when Tag eye becomes bed tag: set beds to beds + 2; go Over tag"
        );
    }

    [Fact]
    public void A_changed_sentence_that_is_taken_makes_the_program_what_it_is_now()
    {
        var taken = 0;
        foreach (var (id, rig) in Rigs)
        {
            var sound = Read(rig);
            var given = SentenceFaults
                .In(rig.Program.Script, Words(rig))
                .Select(f => f.Script)
                .Concat(
                    LessonStart
                        .Sentences(sound.Program)
                        .Select(s => LessonStart.Without(rig.Program.Script, sound.Program, [s.Line]).Script)
                );
            foreach (var script in given)
            {
                var offers = LineOffers.Between(Read(rig, script).Program, sound.Program);
                Assert.True(offers.Count == 1, $"{id}: {string.Join(" ", offers.Select(o => o.Say))}");
                var (text, line) = LineOffers.Take(rig.Program with { Script = script }, Words(rig), offers[0]);
                var now = Read(rig, text.Script);
                Assert.Empty(ProgramDifference.Between(now.Program, sound.Program));
                Assert.True(line > 0);
                taken++;
                // The other way round it goes too, and twice it does not.
                var back = LineOffers.Between(sound.Program, Read(rig, script).Program);
                Assert.Single(back);
                Assert.Empty(
                    ProgramDifference.Between(
                        Read(rig, LineOffers.Take(text, Words(rig), back[0]).Program.Script).Program,
                        Read(rig, script).Program
                    )
                );
                Assert.Throws<InputProblem>(() => LineOffers.Take(text, Words(rig), offers[0]));
            }
        }
        Assert.True(taken > 200, $"{taken}");
    }

    [Fact]
    public void A_state_that_is_new_comes_with_its_sentences_and_one_that_is_gone_goes()
    {
        var rig = Rig("seed-trolley");
        var sound = Read(rig);
        foreach (var state in sound.Program.AllStates.Where(s => !s.Initial).Select(s => s.Name))
        {
            var less = Outline.Apply(
                rig.Program.Script,
                [],
                new(OutlineAct.TakeOut, sound.Program.AllStates.Single(s => s.Name == state).Span.Line),
                Words(rig)
            );
            var offer = LineOffers
                .Between(less.Program, sound.Program)
                .Single(o => o.Where.EndsWith($".{state}", StringComparison.Ordinal) && o.OfState);
            var (text, _) = LineOffers.Take(rig.Program with { Script = less.Script }, Words(rig), offer);
            Assert.Empty(ProgramDifference.Between(Read(rig, text.Script).Program, sound.Program));
            var gone = LineOffers
                .Between(sound.Program, less.Program)
                .Single(o => o.Where.EndsWith($".{state}", StringComparison.Ordinal) && o.OfState);
            Assert.Empty(
                ProgramDifference.Between(Read(rig, LineOffers.Take(text, Words(rig), gone).Program.Script).Program, less.Program)
            );
        }
    }

    [Fact]
    public void What_does_not_fit_any_more_is_said_and_nothing_is_changed()
    {
        var rig = Rig("seed-trolley");
        var sound = Read(rig);
        var faulty = SentenceFaults.In(rig.Program.Script, Words(rig)).First(f => f.Kind == FaultKind.Guard);
        var offer = LineOffers.Between(Read(rig, faulty.Script).Program, sound.Program)[0];
        // The team has written the sentence anew since.
        var own = rig.Program with
        {
            Script = faulty.Script.Replace(faulty.After!, "when beds = 4: go Stopping"),
        };
        Assert.Contains("does not stand", Assert.Throws<InputProblem>(() => LineOffers.Take(own, Words(rig), offer)).Message);
        var renamed = rig.Program with { Script = faulty.Script.Replace("Over tag", "Above") };
        Assert.Contains("no state Main.Over tag", Assert.Throws<InputProblem>(() => LineOffers.Take(renamed, Words(rig), offer)).Message);
        Assert.Contains("already", Assert.Throws<InputProblem>(() => LineOffers.Take(rig.Program, Words(rig), offer)).Message);
        Assert.Empty(LineOffers.Between(sound.Program, sound.Program));
    }

    private static IEnumerable<string> Proposed(Offered offered, RigDesign rig, string line, int column)
    {
        var script = rig.Program.Script.TrimEnd() + "\n" + line[..column];
        return ScriptParser
            .Complete(script, script.Split('\n').Length, column, Words(rig))
            .Where(c => offered.Proposes(line[..c.Start], c.Candidate.Text, c.Candidate.Kind))
            .Where(c =>
                line[c.Start..].StartsWith(c.Candidate.Text, StringComparison.Ordinal) && c.Start + c.Candidate.Text.Length > column
            )
            .Select(c => c.Candidate.Text);
    }

    // Places in a line where something is typed next, with what leads on there when everything is offered.
    private static IEnumerable<(int Column, string[] Next)> Places(RigDesign rig, string line)
    {
        for (var column = 4; column < line.Length; column++)
            if (line[column - 1] == ' ' && Proposed(Offered.All, rig, line, column).ToArray() is { Length: > 0 } next)
                yield return (column, next);
    }

    [Fact]
    public void What_a_lesson_offers_is_proposed_everywhere_and_what_it_does_not_somewhere_not()
    {
        var hidden = new HashSet<string>();
        foreach (var (id, rig) in Rigs)
        {
            var program = Read(rig).Program;
            var uses = UsedSentences.In(program);
            Assert.Empty(uses.In(program));
            foreach (var node in program.AllStates.SelectMany(s => s.Lines))
            {
                var line = "    " + Printer.Plain(Printer.Pieces(node));
                var places = Places(rig, line).ToArray();
                Assert.NotEmpty(places);
                foreach (var (column, next) in places)
                    Assert.True(Proposed(uses, rig, line, column).Any(), $"{id}: {line[..column]}| {string.Join(", ", next)}");
                var one = new ProgramNode("P", [], [], [new("Main", [], [new("A", true, false, [], [node])])], []);
                foreach (
                    var (key, less) in UsedSentences
                        .In(one)
                        .Triggers!.Select(k =>
                            (k, Offered.All with { Triggers = [.. SentenceKinds.Triggers.Select(t => t.Key).Where(t => t != k)] })
                        )
                        .Concat(
                            UsedSentences
                                .In(one)
                                .Actions!.Select(k =>
                                    (k, Offered.All with { Actions = [.. SentenceKinds.Actions.Select(t => t.Key).Where(t => t != k)] })
                                )
                        )
                )
                    if (places.Any(p => !Proposed(less, rig, line, p.Column).Any()))
                        hidden.Add(key);
            }
        }
        // Levels of zones and conditions are written with the same words: that one of them is not part of a lesson is told, not hidden.
        string[] used =
        [
            .. Rigs.SelectMany(r => UsedSentences.In(Read(r.Rig).Program) is var u ? u.Triggers!.Concat(u.Actions!) : [])
                .Distinct()
                .Order(),
        ];
        Assert.Equal([], used.Except(hidden));
        Assert.True(used.Length >= 18, string.Join(" ", used));
    }

    [Fact]
    public void Patterns_and_examples_of_what_is_not_offered_are_not_proposed()
    {
        var rig = Rig("seed-trolley");
        var fitted = Core
            .Programs.Patterns.PatternLibrary.All.Select(p =>
                Core.Programs.Patterns.PatternFitting.Fit(p, rig, "Seed trolley", new Dictionary<string, int>())
            )
            .ToArray();
        Assert.All(fitted, f => Assert.True(Offered.All.Proposes(f, rig)));
        var few = new Offered(["zone", "after"], ["run", "stop", "set"], false, false);
        var kept = fitted.Where(f => few.Proposes(f, rig)).ToArray();
        Assert.InRange(kept.Length, 0, fitted.Length / 2);
        var more = new Offered(null, [.. SentenceKinds.Actions.Select(k => k.Key).Where(k => k != "wait")], true, true);
        var most = fitted.Count(f => more.Proposes(f, rig));
        Assert.InRange(most, kept.Length + 1, fitted.Length - 1);
        Assert.True(few.Proposes("after 2 s: go Rolling", Words(rig)));
        Assert.False(few.Proposes("every 2 s: stay", Words(rig)));
        Assert.False(few.Proposes("on entry: turn Lamp on", Words(rig)));
    }
}
