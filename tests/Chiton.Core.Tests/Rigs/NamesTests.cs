namespace Chiton.Core.Tests.Rigs;

public class NamesTests
{
    [Theory]
    [InlineData("Hoist", "Hoist", "Tank")]
    [InlineData("Hoist", "Hoist 2", "HOIST")]
    [InlineData("Hoist", "Hoist 4", "Hoist", "hoist 2", "Hoist 3")]
    [InlineData(" Hoist ", "Hoist 2", "Hoist")]
    public void A_name_that_is_taken_gets_a_number(string name, string free, params string[] taken) =>
        Assert.Equal(free, RigNames.Free(name, taken));

    [Fact]
    public void A_long_name_makes_room_for_it()
    {
        var longest = new string('a', 60);
        Assert.Equal(new string('a', 58) + " 2", RigNames.Free(longest, [longest]));
    }

    [Theory]
    [InlineData("Post 3's Button", true)]
    [InlineData("Button", true)]
    [InlineData("3's Button", false)]
    [InlineData("Post's 's", false)]
    [InlineData("Post's", false)]
    [InlineData("'s Button", false)]
    [InlineData(null, false)]
    public void A_device_may_be_named_after_its_controller(string? name, bool fits) => Assert.Equal(fits, RigNames.IsDevice(name));
}
