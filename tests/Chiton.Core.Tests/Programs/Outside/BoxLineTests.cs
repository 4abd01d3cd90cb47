using System.Text;
using Chiton.Core.Programs.Outside;

namespace Chiton.Core.Tests.Programs.Outside;

/// <summary>The line between a box and the desk: what is written is read back, and whatever comes is read without a failure.</summary>
public class BoxLineTests
{
    private static readonly BoxNames Names = new(
        ["Tag eye", "Tag", "Colour eye", "Range"],
        ["Trolley", "Mast", "Left wheel", "lamp of Tag eye", "display"],
        ["Main", "Sea side"]
    );

    [Theory]
    [InlineData("chiton 1 Seed trolley")]
    [InlineData("chiton 1 Seed trolley stand-in")]
    [InlineData("have Tag eye light 10")]
    [InlineData("tell Tag eye")]
    [InlineData("quiet Tag eye")]
    [InlineData("r 12345678 Tag eye 41")]
    [InlineData("r 0 Tag -")]
    [InlineData("r 1 Colour eye 120 44.5 80")]
    [InlineData("r 1 Colour eye pale red")]
    [InlineData("do Trolley run 60 %")]
    [InlineData("do Left wheel run -180 deg/s 90 motor deg for 1.5 s")]
    [InlineData("do Mast go 40 % 123.5 deg up")]
    [InlineData("do Mast go 12 deg up shortest")]
    [InlineData("do lamp of Tag eye on")]
    [InlineData("do Trolley steer 40 % -20 % for 300 mm")]
    [InlineData("do display show 3")]
    [InlineData("do display show for 3 s the tide")]
    [InlineData("do Trolley brake")]
    [InlineData("done Trolley")]
    [InlineData("stalls Mast")]
    [InlineData("gives up Left wheel")]
    [InlineData("state 12345678 Sea side Main.Sea open")]
    [InlineData("holds 3f2a")]
    [InlineData("battery 7.4")]
    [InlineData("?")]
    [InlineData("? battery")]
    [InlineData("ok")]
    [InlineData("no such sensor here")]
    public void What_a_person_types_is_understood_and_said_alike(string line)
    {
        var message = BoxLine.Read(line, Names);
        Assert.IsNotType<BoxStrange>(message);
        Assert.Equal(line, message.ToString());
        Assert.True(line.Length <= BoxLine.Longest);
    }

    [Fact]
    public void Each_says_what_it_means()
    {
        Assert.Equal(new BoxReading(12345678, "Tag eye", [41], null), BoxLine.Read("r 12345678 Tag eye 41", Names));
        Assert.Equal(new BoxReading(5, "Range", [], null), BoxLine.Read("  r   5  Range   -  ", Names));
        Assert.Equal(new BoxReading(5, "Colour eye", [1, 2, 3], null), BoxLine.Read("r 5 Colour eye 1 2 3", Names));
        Assert.Equal(new BoxReading(5, "Colour eye", [], "pale red"), BoxLine.Read("r 5 Colour eye pale red", Names));
        Assert.Equal(new BoxOrder("Trolley", "run", 60, "%", null, "", null, ""), BoxLine.Read("do Trolley run 60 %", Names));
        Assert.Equal(
            new BoxOrder("Left wheel", "run", -180, "deg/s", 90, "motor deg", 1.5, ""),
            BoxLine.Read("do Left wheel run -180 deg/s 90 motor deg for 1.5 s", Names)
        );
        Assert.Equal(new BoxOrder("Mast", "step", 200, "steps", 50, "Hz", null, ""), BoxLine.Read("do Mast step 200 steps 50 Hz", Names));
        Assert.Equal(new BoxHave("Tag eye", "light", 10), BoxLine.Read("have Tag eye light 10", BoxNames.None));
        Assert.Equal(new BoxHello(1, "Seed trolley", true), BoxLine.Read("chiton 1 Seed trolley stand-in", BoxNames.None));
        Assert.Equal(new BoxState(7, "Sea side", "Main.Shut"), BoxLine.Read("state 7 Sea side Main.Shut", Names));
    }

    [Fact]
    public void A_name_that_nobody_knows_is_still_told_from_what_follows_it()
    {
        // So that it can be said that there is none.
        Assert.Equal(new BoxReading(9, "Nobody's own eye", [4], null), BoxLine.Read("r 9 Nobody's own eye 4", Names));
        Assert.Equal(new BoxReading(9, "New eye", [1, 2, 3], null), BoxLine.Read("r 9 New eye 1 2 3", Names));
        Assert.Equal(new BoxOrder("Big arm", "run", 5, "%", null, "", null, ""), BoxLine.Read("do Big arm run 5 %", Names));
    }

    [Theory]
    [InlineData("hello", "No line begins so.")]
    [InlineData("", "No line begins so.")]
    [InlineData("chiton 2 Trolley", "version 1")]
    [InlineData("chiton 1", "its name")]
    [InlineData("chiton", "version 1")]
    [InlineData("have Tag eye", "what kind")]
    [InlineData("have Tag eye light often", "number of ms")]
    [InlineData("have Tag eye light 0", "number of ms")]
    [InlineData("have Tag eye light -3", "number of ms")]
    [InlineData("r", "whole number of microseconds")]
    [InlineData("r now Tag eye 4", "whole number of microseconds")]
    [InlineData("r -4 Tag eye 4", "whole number of microseconds")]
    [InlineData("r 1.5 Tag eye 4", "whole number of microseconds")]
    [InlineData("r 99999999999999999999 Tag eye 4", "whole number of microseconds")]
    [InlineData("r 1000000000000001 Tag eye 4", "whole number of microseconds")]
    [InlineData("r 5 Tag eye", "what it reads")]
    [InlineData("r 5 Tag eye 1 2", "one number, or three")]
    [InlineData("r 5 Tag eye 4 or so", "a number, or the name of a zone")]
    [InlineData("r 5", "which sensor")]
    [InlineData("do", "which device")]
    [InlineData("do Trolley", "what it does")]
    [InlineData("do Trolley fly", "what it does")]
    [InlineData("do fly away", "which device")]
    [InlineData("gives in Mast", "gives up")]
    [InlineData("gives up", "gives up")]
    [InlineData("state 5 Main", "its state")]
    [InlineData("holds", "one word")]
    [InlineData("holds a b", "one word")]
    [InlineData("battery full", "0 to 1000")]
    [InlineData("battery -1", "0 to 1000")]
    [InlineData("battery NaN", "0 to 1000")]
    [InlineData("battery 1e999", "0 to 1000")]
    [InlineData("tell", "which sensor")]
    [InlineData("done", "which device")]
    [InlineData("ok then", "No line begins so.")]
    [InlineData("done\u0007 Mast", "cannot be seen")]
    public void What_is_no_line_says_what_is_wrong(string line, string why)
    {
        var strange = Assert.IsType<BoxStrange>(BoxLine.Read(line, Names));
        Assert.Equal(line, strange.Line);
        Assert.Contains(why, strange.Why);
    }

    private static List<BoxMessage> Through(byte[] bytes, Random? cuts)
    {
        var framing = new BoxFraming();
        var said = new List<BoxMessage>();
        for (var at = 0; at < bytes.Length; )
        {
            var n = cuts is null ? bytes.Length : Math.Min(bytes.Length - at, cuts.Next(1, 9));
            framing.Take(bytes.AsSpan(at, n), Names, said.Add);
            at += n;
        }
        return said;
    }

    [Fact]
    public void Lines_come_whole_however_their_bytes_are_cut()
    {
        var text =
            "chiton 1 Trolley\r\n\r\n\nr 5 Tag eye 4\nno wörter — ’ 🦪\n"
            + new string('x', 3000)
            + "\nok\n"
            + new string('é', 200)
            + "\nhalf";
        var bytes = Encoding
            .UTF8.GetBytes(text)
            .Concat<byte>([(byte)'\n', 0xC3, 0x28, (byte)'\n', 0xFF, (byte)'\n', (byte)'o', (byte)'k'])
            .ToArray();
        var whole = Through(bytes, null);
        Assert.Equal(
            ["BoxHello", "BoxReading", "BoxNo", "BoxStrange", "BoxOk", "BoxStrange", "BoxStrange", "BoxStrange", "BoxStrange"],
            whole.Select(m => m.GetType().Name)
        );
        Assert.Contains("at most 200", ((BoxStrange)whole[3]).Why);
        Assert.Contains("UTF-8", ((BoxStrange)whole[7]).Why);
        for (var seed = 0; seed < 200; seed++)
            Assert.Equal(whole, Through(bytes, new(seed)));
    }

    [Fact]
    public void A_hundred_thousand_lines_gone_wrong_are_read_without_a_failure()
    {
        string[] lines =
        [
            "chiton 1 Seed trolley stand-in",
            "have Tag eye light 10",
            "r 12345678 Tag eye 41",
            "r 1 Colour eye 120 44.5 80",
            "do Left wheel run -180 deg/s 90 motor deg for 1.5 s",
            "do Mast go 40 % 123.5 deg up",
            "state 12345678 Sea side Main.Sea open",
            "gives up Left wheel",
            "battery 7.4",
            "no reason",
        ];
        var draw = new Random(7);
        var framing = new BoxFraming();
        var (strange, understood) = (0, 0);
        for (var i = 0; i < 100_000; i++)
        {
            var bytes = Encoding.UTF8.GetBytes(lines[draw.Next(lines.Length)]).ToList();
            for (var k = draw.Next(1, 6); k > 0; k--)
                switch (draw.Next(5))
                {
                    case 0 when bytes.Count > 0:
                        bytes[draw.Next(bytes.Count)] = (byte)draw.Next(256);
                        break;
                    case 1 when bytes.Count > 0:
                        bytes.RemoveAt(draw.Next(bytes.Count));
                        break;
                    case 2:
                        bytes.Insert(draw.Next(bytes.Count + 1), (byte)draw.Next(256));
                        break;
                    case 3:
                        bytes.AddRange(bytes.Take(draw.Next(bytes.Count + 1)).ToArray());
                        break;
                    default:
                        bytes.InsertRange(draw.Next(bytes.Count + 1), " 1e308 -0 nan 99999999999999999999 "u8.ToArray());
                        break;
                }
            bytes.Add((byte)'\n');
            framing.Take(
                [.. bytes],
                Names,
                m =>
                {
                    if (m is BoxStrange s)
                    {
                        strange++;
                        Assert.NotEqual("", s.Why);
                        Assert.InRange(s.Line.Length, 0, BoxLine.Longest);
                        return;
                    }
                    understood++;
                    // What is understood can be said again, and means the same then.
                    var again = BoxLine.Read(m.ToString(), Names);
                    Assert.Equal(m.ToString(), again.ToString());
                    if (m is BoxReading r)
                    {
                        Assert.InRange(r.Micros, 0, BoxLine.LatestMicros);
                        Assert.All(r.Values, v => Assert.True(double.IsFinite(v)));
                        Assert.True(r.Values.Count is 0 or 1 or 3);
                    }
                }
            );
        }
        Assert.True(strange > 30_000 && understood > 10_000, $"{strange} strange, {understood} understood");
    }
}
