using System.Globalization;
using System.Text;

namespace Chiton.Core.Programs.Outside;

/// <summary>Makes names legal in C++ and Python alike: letters, digits and underscores, no word of either language, each once.</summary>
public sealed class BoardNames
{
    // Words of either language, and names that the code around them has.
    private static readonly HashSet<string> Reserved =
    [
        .. (
            "alignas alignof and and_eq as asm assert async auto await bitand bitor bool break case catch char char8_t char16_t char32_t "
            + "class co_await co_return co_yield compl concept const const_cast consteval constexpr constinit continue decltype def "
            + "default del delete do double dynamic_cast elif else enum except explicit export extern False false finally float for "
            + "friend from global goto if import in inline int is lambda long mutable namespace new None nonlocal noexcept not not_eq "
            + "nullptr operator or or_eq pass print private protected public raise register reinterpret_cast requires return self short "
            + "signed sizeof static static_assert static_cast struct switch template this thread_local throw True true try typedef "
            + "typeid typename union unsigned using virtual void volatile wchar_t while with xor xor_eq yield match type main std chiton "
            + "Machine Rig Hands Order Message Verb Unit List Lists Same Scale Program EOF NULL NAN errno stdin stdout stderr INT8_MAX "
            + "unix linux"
        ).Split(' '),
    ];

    // Letters from U+00C0 on without their accents: what would do that anywhere else needs data that does not ship.
    private const string Plain =
        "AAAAAAACEEEEIIIIDNOOOOO_OUUUUYTsaaaaaaaceeeeiiiidnooooo_ouuuuytyAaAaAaCcCcCcCcDdDdEeEeEeEeEeGgGg"
        + "GgGgHhHhIiIiIiIiIiIiJjKkkLlLlLlLlLlNnNnNnnNnOoOoOoOoRrRrRrSsSsSsSsTtTtTtUuUuUuUuUuUuWwYyYZzZzZzs";

    private readonly HashSet<string> taken = [];

    /// <summary>A name for the code: accents dropped, what is no letter or digit an underscore, a number behind what is taken.</summary>
    /// <param name="name">As people say it.</param>
    public string Of(string name)
    {
        var made = new StringBuilder();
        foreach (var sign in name)
        {
            var c = sign is >= '\u00C0' and < '\u0180' ? Plain[sign - '\u00C0'] : sign;
            if (char.IsAsciiLetterOrDigit(c))
                made.Append(c);
            else if (made.Length > 0 && made[^1] != '_')
                made.Append('_');
        }
        var legal = made.ToString().Trim('_');
        if (legal.Length > 40)
            legal = legal[..40].Trim('_');
        if (legal.Length == 0 || char.IsAsciiDigit(legal[0]))
            legal = "n" + (legal.Length == 0 ? "" : "_" + legal);
        if (Reserved.Contains(legal))
            legal += "_";
        var one = legal;
        for (var n = 2; !taken.Add(one.ToLowerInvariant()); n++)
            one = string.Create(CultureInfo.InvariantCulture, $"{legal}_{n}");
        return one;
    }
}
