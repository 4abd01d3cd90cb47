using Chiton.Core.Programs.Drawing;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Data;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Fuzz;

/// <summary>
/// Scripts, documents, columns of readings and rig files, mutated by a seed: each is taken or refused in words, soon, and
/// nothing else is ever thrown. <c>./dev long</c> runs 200 000; a seed that failed can be run alone.
/// </summary>
public class MutationTests
{
    private static readonly TimeSpan Most = TimeSpan.FromSeconds(1);

    private static readonly string[] Bits =
    [
        "",
        " ",
        "\n",
        "\t",
        "\"",
        "'",
        ":",
        ";",
        ",",
        "(",
        ")",
        "[",
        "]",
        "{",
        "}",
        "<",
        ">",
        "&",
        "=",
        "-",
        "0",
        "-1",
        "1e999",
        "NaN",
        "99999999999999999999",
        "null",
        "\u0000",
        "\u202E",
        "\uD800",
        "é",
        "𝄞",
        "state ",
        "when ",
        "always: go A\n",
        "repeat 99999 times: ",
        "if ",
        "not ",
        "and ",
        "after 0 s: ",
        "history ",
        "region ",
        "routine ",
        "do ",
        "<state>",
        "</state>",
        "<transition cond='x'/>",
        "<foreach array='l' item='x'>",
        "s+s",
        "&amp;",
        "<![CDATA[",
        "]]>",
        "zone",
        "reading",
        "\r\n",
        "#",
        "% ",
        " deg ",
        "...",
    ];

    // One to six changes: bits put in, stretches taken out, doubled, moved, single characters turned.
    private static string Mutate(string text, Random chance)
    {
        for (var n = chance.Next(1, 7); n > 0; n--)
        {
            var at = chance.Next(text.Length + 1);
            var length = Math.Min(text.Length - at, chance.Next(1, chance.Next(4) == 0 ? 400 : 12));
            text = chance.Next(6) switch
            {
                0 => text[..at] + Bits[chance.Next(Bits.Length)] + text[at..],
                1 => text[..at] + text[(at + length)..],
                2 => text[..at]
                    + string.Concat(Enumerable.Repeat(text.Substring(at, length), chance.Next(2, chance.Next(20) == 0 ? 500 : 4)))
                    + text[at..],
                3 when text.Length > 0 => text[..at]
                    + (char)chance.Next(chance.Next(3) == 0 ? 0x2100 : 0x80)
                    + text[Math.Min(text.Length, at + 1)..],
                4 => text[..at] + text[chance.Next(text.Length + 1)..],
                _ => text[..at] + Bits[chance.Next(Bits.Length)] + Bits[chance.Next(Bits.Length)] + text[(at + length)..],
            };
            if (text.Length > 60_000)
                text = text[..60_000];
        }
        return text;
    }

    private static void Each(int seed, int sample, IReadOnlyList<string> from, Action<string> take)
    {
        var count = Campaign.Of(sample, 50_000);
        Parallel.For(
            0,
            count,
            i =>
            {
                var chance = new Random(seed + i);
                var text = Mutate(from[chance.Next(from.Count)], chance);
                var begun = ThreadWork.Now;
                try
                {
                    take(text);
                }
                catch (Exception e) when (e is InputProblem or ScxmlUnreadable or JsonException or OutOfSteps)
                {
                    // Refused in words.
                }
                catch (Exception e)
                {
                    Assert.Fail($"Seed {seed + i}: {e}\n{text}");
                }
                // A busy machine is no fault of the text: what counts is the work that it makes, not the wait for a core.
                var work = ThreadWork.Since(begun);
                Assert.True(work <= Most, $"Seed {seed + i} takes {work} of work:\n{text[..Math.Min(text.Length, 1500)]}");
            }
        );
    }

    private static readonly DemoRig[] Farm = [.. Chiton.Data.Demo.Farm.All(DateTime.UnixEpoch)];

    private static readonly (RigDesign Rig, string Script)[] Programs =
    [
        .. Farm.SelectMany(r => r.Design.Programs.Select(p => (r.Design, p.Script))),
    ];

    private static readonly WalkEvent[] Steps =
    [
        .. new[] { "Tag eye is bed tag", "Order knob tapped", "told ask", "Range reads 50 mm" }.Select(n => new WalkEvent(n, null, 500)),
        new(null, null, 60_000),
    ];

    [Fact]
    public void Mutated_scripts()
    {
        var rigs = Programs.ToLookup(p => p.Script, p => p.Rig);
        Each(
            1_000_000,
            1_200,
            [.. Programs.Select(p => p.Script)],
            text =>
            {
                var rig = Programs[text.Length % Programs.Length].Rig;
                var words = Vocabulary.Of(rig);
                var parsed = ScriptParser.Parse(text, words);
                var printed = Printer.Print(parsed.Program);
                _ = ChartDrawing.Of(parsed.Program).ToMermaid() + ChartDrawing.Of(parsed.Program).ToDot(parsed.Program.Name);
                _ = ScriptParser.Complete(text, 1 + text.Length % 7, text.Length % 30, words);
                if (parsed.Diagnostics.Count > 0)
                    return;
                Assert.Equal(printed, Printer.Print(ScriptParser.Parse(printed, words).Program));
                var compiled = ScriptCompiler.Compile(parsed.Program, rig);
                foreach (var step in Steps)
                    try
                    {
                        ScriptWalk.Run(compiled, [step], new StepBudget(100_000));
                    }
                    catch (InputProblem) { }
                _ = ScxmlImport.Read(ScxmlWriter.Write(parsed.Program), words);
            }
        );
    }

    private static readonly string[] Charts =
    [
        .. Programs.Take(6).Select(p => ScxmlWriter.Write(ScriptParser.Parse(p.Script, Vocabulary.Of(p.Rig)).Program)),
        "<scxml xmlns=\"http://www.w3.org/2005/07/scxml\" version=\"1.0\" datamodel=\"ecmascript\"><datamodel><data id=\"s\" "
            + "expr=\"'x'\"/><data id=\"l\" expr=\"[1,2,3]\"/></datamodel><state id=\"a\"><onentry><assign location=\"s\" "
            + "expr=\"s+s\"/><foreach array=\"l\" item=\"x\" index=\"i\"><raise event=\"e\"/></foreach><send event=\"t\" "
            + "delay=\"1s\"/></onentry><transition event=\"e\" cond=\"l.length &gt; 2\" target=\"b\"/></state><parallel "
            + "id=\"b\"><state id=\"c\"><transition event=\"t\" target=\"d\"/></state><state id=\"d1\"><history id=\"h\"><transition "
            + "target=\"d2\"/></history><state id=\"d2\"/></state></parallel><final id=\"d\"/></scxml>",
    ];

    [Fact]
    public void Mutated_documents()
    {
        var rig = Vocabulary.Of(Farm[0].Design);
        Each(
            2_000_000,
            1_200,
            Charts,
            text =>
            {
                try
                {
                    ScxmlImport.Read(text, rig);
                }
                catch (ScxmlUnreadable) { }
                ScxmlWalk.Run(text, [new("e", null, 10), new("t", null, 5000)], new StepBudget(200_000));
            }
        );
    }

    private static readonly string[] Columns =
    [
        "zone,reading\nnotch,12\nmast paint,81.5\n",
        "12\n13\n14,5\n",
        "reading;zone\n12;notch\n13;notch\n",
        "near\t120 mm\nfar\t800 mm\n",
        "1,2,3\n4,5,6\n255,0,0\n",
        "81 cm\n82 cm\n",
    ];

    [Fact]
    public void Mutated_columns_of_readings() =>
        Each(
            3_000_000,
            3_000,
            Columns,
            text =>
            {
                foreach (var width in new[] { 1, 3 })
                    ReadingText.Parse(text, "notch", ["notch", "mast paint", "near", "far"], 0, 255, "%", width);
            }
        );

    private static readonly JsonSerializerOptions Incoming = Options();

    private static JsonSerializerOptions Options()
    {
        var options = new JsonSerializerOptions();
        Chiton.Server.App.JsonInput.Configure(options);
        return options;
    }

    private static readonly string[] Files = [.. Farm.Select(r => Documents.Write(r.Design))];

    [Fact]
    public void Mutated_rig_files() =>
        Each(
            4_000_000,
            700,
            Files,
            text =>
            {
                // As it comes in: bytes, read by the rules of what comes in.
                var design =
                    JsonSerializer.Deserialize<RigDesign>(
                        Chiton.Server.App.JsonInput.Clean(System.Text.Encoding.UTF8.GetBytes(text)),
                        Incoming
                    ) ?? throw new JsonException("Nothing.");
                RigRules.Check(design, "design");
                _ = design.WiringFaults();
                foreach (var p in design.Programs)
                    ScriptParser.Parse(p.Script, Vocabulary.Of(design));
                _ = WiringTable.Of(design);
                _ = Chiton.Core.Motion.TrialCatalogue.For(design, null);
                Assert.Equal(design, Documents.Read<RigDesign>(Documents.Write(design)));
            }
        );
}
