using System.Globalization;
using System.IO.Ports;
using System.Net.Sockets;
using Chiton.Core.Quantities;

namespace Chiton.Server.App.Lines;

/// <summary>Serial ports of this machine, by their system names.</summary>
public class SerialPorts
{
    /// <summary>Names that can be opened.</summary>
    public virtual IReadOnlyList<string> Names()
    {
        try
        {
            return [.. SerialPort.GetPortNames().Distinct().Order(StringComparer.Ordinal)];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or PlatformNotSupportedException)
        {
            // A system that does not list them has none that could be chosen.
            return [];
        }
    }

    /// <summary>The port that a name means: one that is listed, or a link of the system that leads to one. Nothing else is ever
    /// opened.</summary>
    /// <param name="typed">What was typed.</param>
    /// <returns>Null where it is no serial port.</returns>
    public virtual string? Find(string typed)
    {
        var names = Names();
        if (names.Contains(typed))
            return typed;
        if (!typed.StartsWith("/dev/serial/", StringComparison.Ordinal) || typed.Split('/').Contains(".."))
            return null;
        try
        {
            return File.ResolveLinkTarget(typed, true)?.FullName is { } target && names.Contains(target) ? target : null;
        }
        catch (IOException)
        {
            return null;
        }
    }
}

/// <summary>A way to a board or a box: a serial port by its name, or an address and its port.</summary>
/// <param name="Port">Name of the serial port; empty for an address.</param>
/// <param name="Baud">Its speed, bits a second.</param>
/// <param name="Host">The address; empty for a port.</param>
/// <param name="Number">Its port, 1 to 65535.</param>
public sealed record LineWay(string Port, int Baud, string Host, int Number)
{
    /// <summary>The usual speed of a serial port.</summary>
    public const int UsualBaud = 115200;

    private const string Rule =
        "Type a serial port, as /dev/ttyUSB0 or COM3 (with its speed behind it where that is not 115200), or an address and its port, as "
        + "127.0.0.1:5190.";

    /// <summary>Reads what was typed.</summary>
    /// <param name="typed">A port by its system name with its speed, or an address and its port.</param>
    /// <param name="ports">The ports that there are.</param>
    /// <exception cref="InputProblem">When it is neither, or no serial port of that name is here.</exception>
    public static LineWay Read(string? typed, SerialPorts ports)
    {
        var to = typed?.Trim() ?? "";
        if (to.Length is 0 or > 200 || to.Any(char.IsControl))
            throw new InputProblem("to", Rule);
        var words = to.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (
            to.Contains('/', StringComparison.Ordinal)
            || to.Contains('\\', StringComparison.Ordinal)
            || !to.Contains(':', StringComparison.Ordinal)
        )
        {
            var baud = UsualBaud;
            if (
                words.Length > 2
                || words.Length == 2
                    && !(
                        int.TryParse(words[1], NumberStyles.None, CultureInfo.InvariantCulture, out baud) && baud is >= 300 and <= 4_000_000
                    )
            )
                throw new InputProblem("to", "Behind a port stands its speed, 300 to 4000000 bits a second, or nothing.");
            // An address without its port.
            if (!words[0].Contains('/', StringComparison.Ordinal) && words[0].Contains('.', StringComparison.Ordinal))
                throw new InputProblem("to", Rule);
            return ports.Find(words[0]) is null
                ? throw new InputProblem(
                    "to",
                    $"“{words[0]}” is no serial port of this machine. "
                        + (
                            ports.Names() is { Count: > 0 } names
                                ? $"There are {Figures.List(names)}."
                                : "There is none here now: is it plugged in?"
                        )
                )
                : new(words[0], baud, "", 0);
        }
        var colon = to.LastIndexOf(':');
        var host = to[..colon].Trim();
        if (
            words.Length != 1
            || host == ""
            || !int.TryParse(to[(colon + 1)..], NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            || number is < 1 or > 65535
            || Uri.CheckHostName(host.Trim('[', ']')) == UriHostNameType.Unknown
        )
            throw new InputProblem("to", Rule);
        return new("", 0, host.Trim('[', ']'), number);
    }

    /// <summary>Reads what was kept, whether a port of that name is plugged in now or not.</summary>
    public static LineWay Kept(string to) => Read(to, new Remembered());

    // Whatever is named was looked at when it was typed, and is looked at again before it is opened.
    private sealed class Remembered : SerialPorts
    {
        public override string? Find(string typed) => typed;
    }

    /// <summary>As it is typed.</summary>
    public override string ToString() =>
        Port != ""
            ? Baud == UsualBaud
                ? Port
                : string.Create(CultureInfo.InvariantCulture, $"{Port} {Baud}")
            : Host.Contains(':', StringComparison.Ordinal)
                ? string.Create(CultureInfo.InvariantCulture, $"[{Host}]:{Number}")
                : string.Create(CultureInfo.InvariantCulture, $"{Host}:{Number}");

    /// <summary>Opens it.</summary>
    /// <param name="ports">The ports that there are now.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="IOException">When nobody answers, or the port is not there.</exception>
    public async Task<(Stream Stream, IDisposable Held)> Open(SerialPorts ports, CancellationToken cancel)
    {
        if (Port != "")
        {
            // Looked at again each time: what has the name now may be something else.
            var name = ports.Find(Port) ?? throw new IOException($"{Port} is not there: is it plugged in?");
            var serial = new SerialPort(name, Baud);
            try
            {
                await Task.Run(serial.Open, cancel);
                Ready(serial);
                return (serial.BaseStream, serial);
            }
            catch (Exception e) when (e is UnauthorizedAccessException or ArgumentException or InvalidOperationException)
            {
                serial.Dispose();
                throw new IOException(
                    e is UnauthorizedAccessException
                        ? $"{Port} cannot be opened: another program has it, or this account may not."
                        : $"{Port} cannot be opened: {e.Message}",
                    e
                );
            }
            catch
            {
                serial.Dispose();
                throw;
            }
        }
        var client = new TcpClient { NoDelay = true };
        try
        {
            await client.ConnectAsync(Host, Number, cancel);
            return (client.GetStream(), client);
        }
        catch (SocketException e)
        {
            client.Dispose();
            throw new IOException(
                e.SocketErrorCode switch
                {
                    SocketError.ConnectionRefused => $"Nobody listens at {this}. Is the box started?",
                    SocketError.HostNotFound or SocketError.NoData => $"There is no {Host} on this network.",
                    _ => $"{this} cannot be reached: {e.Message}",
                },
                e
            );
        }
        catch
        {
            client.Dispose();
            throw;
        }
    }

    // Many boards say nothing until the wire for it says that somebody is there; not every port has that wire.
    private static void Ready(SerialPort serial)
    {
        try
        {
            serial.DtrEnable = true;
        }
        catch (IOException)
        {
            // It is a port without it.
        }
    }
}
