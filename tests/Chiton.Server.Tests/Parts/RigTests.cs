namespace Chiton.Server.Tests.Parts;

public class RigTests
{
    [Fact]
    public async Task The_list_holds_the_demo_with_two_copies()
    {
        using var bench = new Bench();
        var rig = Assert.Single((await bench.Get("/api/rigs")).EnumerateArray());
        Assert.Equal("Seed trolley", rig.GetProperty("name").GetString());
        Assert.Equal("Saltmarsh Oyster Farm", rig.GetProperty("place").GetString());
        Assert.Equal(2, rig.GetProperty("copies").GetArrayLength());
    }

    [Fact]
    public async Task Eight_plates_each_with_a_line_of_at_most_20_characters()
    {
        using var bench = new Bench();
        async Task Look()
        {
            var plates = (await bench.Get(Bench.Rig)).GetProperty("plates").EnumerateArray().ToArray();
            Assert.Equal(["rig", "sense", "move", "program", "check", "simulate", "prove", "log"], plates.Select(p => p.GetProperty("part").GetString()));
            Assert.All(plates, p => Assert.InRange(p.GetProperty("line").GetString()!.Length, 1, 20));
        }
        await Look();
        await bench.Prove();
        await bench.Post(Bench.Rig + "/runs", new { seed = 3 });
        await Look();
        await bench.Save("program Broken\n\nnonsense\n");
        await Look();
    }

    [Theory]
    [InlineData("/api/rigs/mast")]
    [InlineData("/api/rigs/seed-trolley?copy=9")]
    [InlineData("/api/rigs/seed-trolley/sense?copy=0")]
    [InlineData("/api/rigs/mast/program")]
    [InlineData("/api/nothing")]
    public async Task What_is_not_there_is_404_with_a_sentence(string path)
    {
        using var bench = new Bench();
        var response = await bench.Http.GetAsync(path);
        Assert.Equal(HttpStatusCode.NotFound, response.StatusCode);
        Assert.NotEqual("", (await response.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("title").GetString());
    }
}
