using System.Text;

namespace Chiton.Server.Tests.Lines;

/// <summary>Lines that come fast, and lines that are mutilated.</summary>
[Collection("Behind everything else")]
public class LineLoadTests
{
    private const string Rig = "seed-trolley";

    [Fact]
    public async Task Ten_thousand_readings_a_second_come_without_loss_and_are_kept_with_their_times()
    {
        using var bench = new Bench();
        using var box = new BoxOnTable(Rig);
        box.Server.Command("every 100");
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, box.To);
        var zone = (await bench.Get($"/api/rigs/{Rig}/sense?copy={copy}")).GetProperty("zones")[0].GetProperty("zone").GetString();
        var seconds = Campaign.Whole ? 15 : 3;
        var taken = await BoxOnTable.Record(bench, Rig, copy, zone, seconds);
        var count = taken.GetProperty("count").GetInt32();
        // A busy machine may begin late, never leave something out in the middle: each is 100 µs after the one before.
        Assert.InRange(count, seconds * 10_000 * 0.3, seconds * 10_000 * 2);
        var own = await BoxOnTable.Own(bench, Rig, copy);
        var times = BoxOnTable.Times(own);
        Assert.Equal(count, times.Length);
        Assert.DoesNotContain(times.Zip(times.Skip(1)), p => p.Second - p.First != 100);
        var line = await bench.Get($"/api/rigs/{Rig}/line?copy={copy}");
        Assert.Equal(0, line.GetProperty("strange").GetInt64());
    }

    [Fact]
    public async Task A_hundred_thousand_mutilated_lines_never_end_the_line_or_the_server()
    {
        const int lines = 100_000;
        var luck = new Random(4);
        string[] good =
        [
            "r 12345678 Tag eye 41",
            "r 5 Tag eye -",
            "state 7 Seed trolley Main.Rolling",
            "state 8 Seed trolley -",
            "done Trolley",
            "stalls Trolley",
            "gives up Trolley",
            "have Tag eye light 10",
            "battery 7.4",
            "ok",
            "no why",
            "?",
            "tell Tag eye",
            "do Trolley run 3 %",
            "holds 1-000000000000",
        ];
        var made = new StringBuilder();
        for (var i = 0; i < lines; i++)
        {
            var odd = Encoding.UTF8.GetBytes(good[luck.Next(good.Length)]).ToList();
            for (var k = luck.Next(4); k > 0 && odd.Count > 1; k--)
                switch (luck.Next(3))
                {
                    case 0:
                        odd.RemoveAt(luck.Next(odd.Count));
                        break;
                    case 1:
                        odd[luck.Next(odd.Count)] = (byte)luck.Next(32, 127);
                        break;
                    default:
                        odd.Insert(luck.Next(odd.Count), (byte)luck.Next(32, 127));
                        break;
                }
            // Now and then one that is far too long, and signs that are no text.
            if (i % 997 == 0)
                odd.AddRange(Enumerable.Repeat((byte)'x', 5000));
            made.Append(Encoding.Latin1.GetString([.. odd])).Append(i % 501 == 0 ? "\u00ff\n" : "\n");
        }
        var all = made.ToString();
        using var bench = new Bench();
        var pouring = 0;
        using var board = OnPort.Answering(
            async (line, say) =>
            {
                if (line == "?")
                    await say("chiton 1 Seed trolley\nok\n");
                else if (line == "? weather" && Interlocked.Exchange(ref pouring, 1) == 0)
                    await say(all + "chiton 1 Seed trolley\nok\n");
                else
                    await say("ok\n");
                return true;
            }
        );
        var copy = await BoxOnTable.Real(bench, Rig);
        await BoxOnTable.Join(bench, Rig, copy, board.To);
        await bench.TryPost($"/api/rigs/{Rig}/line/say", new { copy, line = "? weather" });
        var line = await BoxOnTable.Until(bench, Rig, copy, l => l.GetProperty("lines").GetInt64() > lines, 60);
        Assert.Equal("joined", line.GetProperty("standing").GetString());
        // At the end of all that it says hello, which nobody asked for unless its times had gone back all the while.
        Assert.InRange(line.GetProperty("joins").GetInt32(), 1, 2);
        Assert.True(line.GetProperty("strange").GetInt64() > lines / 20, line.GetProperty("strange").ToString());
        Assert.InRange(line.GetProperty("complaints").GetArrayLength(), 1, 40);
        Assert.Equal(20, line.GetProperty("unread").GetArrayLength());
        // It answers as before, and so does everything else.
        Assert.Contains(
            "ok",
            (await bench.Post($"/api/rigs/{Rig}/line/say", new { copy, line = "? there" })).GetProperty("say").GetString()
        );
        Assert.True((await bench.Get($"/api/rigs/{Rig}/log?copy={copy}")).GetProperty("waiting").GetArrayLength() <= 200);
    }
}
