namespace Chiton.Core.Tests.Sensing;

public class ReadingTextTests
{
    private static readonly string[] Zones = ["sleepers", "bed tag"];

    private static IReadOnlyList<ZoneReadings> Parse(string text) => ReadingText.Parse(text, "bed tag", Zones, 0, 100);

    [Theory]
    [InlineData("12\n13\n14")]
    [InlineData("reading\n12\n13\n14\n")]
    [InlineData("12 %\r\n13 %\r\n\r\n14 %\r\n")]
    [InlineData("12\t13\t14")]
    [InlineData("12;13;14")]
    [InlineData("12,13,14")]
    [InlineData("time,reading\n0.1,12\n0.2,13\n0.3,14")]
    [InlineData("zone,reading\nbed tag,12\nbed tag,13\nBed Tag,14")]
    public void A_column_however_people_have_it(string text)
    {
        var zone = Assert.Single(Parse(text));
        Assert.Equal("bed tag", zone.Zone);
        Assert.Equal([12, 13, 14], zone.Readings);
    }

    [Fact]
    public void Decimal_commas_are_understood() => Assert.Equal([12.5, 13.25], Assert.Single(Parse("12,5\n13,25")).Readings);

    [Fact]
    public void Two_zones_in_one_table()
    {
        var both = Parse("zone;reading\nsleepers;21\nbed tag;55\nsleepers;22");
        Assert.Equal([21, 22], both.Single(z => z.Zone == "sleepers").Readings);
        Assert.Equal([55], both.Single(z => z.Zone == "bed tag").Readings);
    }

    [Fact]
    public void A_word_among_numbers_is_named_with_its_line()
    {
        var p = Assert.Throws<InputProblem>(() => Parse("12\n13\noyster\n14"));
        Assert.Equal("Line 3: “oyster” is not a number.", p.Errors["text.line3"]);
    }

    [Fact]
    public void Not_a_number_and_out_of_range_are_named()
    {
        var p = Assert.Throws<InputProblem>(() => Parse("12\nNaN\n101\n-1"));
        Assert.Equal(["text.line2", "text.line3", "text.line4"], p.Errors.Keys.Order());
    }

    [Fact]
    public void An_unknown_zone_is_named() =>
        Assert.Contains("no zone “weed”", Assert.Throws<InputProblem>(() => Parse("zone,reading\nweed,12")).Message);

    [Theory]
    [InlineData("")]
    [InlineData("\n\n")]
    [InlineData("reading\n")]
    public void Nothing_is_said_to_be_nothing(string text) => Assert.Throws<InputProblem>(() => Parse(text));

    [Fact]
    public void Many_faults_are_cut_short()
    {
        var p = Assert.Throws<InputProblem>(() => Parse(string.Join('\n', Enumerable.Repeat("mud", 50))));
        Assert.Equal(6, p.Errors.Count);
        Assert.Contains("more lines", p.Errors["text"]);
    }

    [Fact]
    public void What_is_printed_is_read_back() =>
        Gen.Double[0, 100]
            .Select(x => Math.Round(x, 2))
            .Array[1, 60]
            .Sample(readings =>
                Assert.Equal(
                    readings,
                    Assert
                        .Single(
                            Parse(string.Join('\n', readings.Select(r => r.ToString(System.Globalization.CultureInfo.InvariantCulture))))
                        )
                        .Readings
                )
            );
}
