using System.Net;
using System.Net.NetworkInformation;
using System.Net.Sockets;
using Chiton.Core.Quantities;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;

namespace Chiton.Server.App.Room;

/// <summary>
/// Where the server listens: at the desk always, in the room while it is open. The web server follows what stands here while it runs:
/// what is added is listened at, what is taken away is closed with its connections.
/// </summary>
public sealed class Listening : ConfigurationProvider, IConfigurationSource
{
    private readonly string desk;

    /// <summary>Begins with the desk.</summary>
    /// <param name="desk">Its address, as "http://127.0.0.1:5180".</param>
    public Listening(string desk)
    {
        this.desk = desk;
        Data["Endpoints:desk:Url"] = desk;
    }

    /// <inheritdoc/>
    public IConfigurationProvider Build(IConfigurationBuilder builder) => this;

    /// <summary>Listens at these besides the desk, and at no others.</summary>
    public void At(IEnumerable<string> urls)
    {
        Data.Clear();
        Data["Endpoints:desk:Url"] = desk;
        foreach (var (i, url) in urls.Index())
            Data[$"Endpoints:room{i}:Url"] = url;
        OnReload();
    }

    /// <summary>The desk's address out of what the server was started with.</summary>
    /// <param name="urls">What was given; null for nothing.</param>
    /// <exception cref="ChitonTrouble">When it is another address than this machine's own: others come in by opening the room.</exception>
    public static string Desk(string? urls)
    {
        if (string.IsNullOrWhiteSpace(urls))
            return "http://127.0.0.1:5180";
        var first = urls.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        if (
            first.Length == 1
            && Uri.TryCreate(first[0], UriKind.Absolute, out var url)
            && url is { Scheme: "http", Host: "127.0.0.1" or "localhost", PathAndQuery: "/" }
        )
            return $"http://127.0.0.1:{url.Port}";
        throw new ChitonTrouble(
            $"“{urls}” is no address of the desk. Chiton is started at http://127.0.0.1 with a port of your choice; others come in "
                + "once you open the room on the page Class."
        );
    }
}

/// <summary>The server was started in a way that cannot be. The message says what to do.</summary>
public sealed class ChitonTrouble(string say) : Exception(say);

/// <summary>The network of this machine: which addresses others can reach it at, and whether it can listen there.</summary>
public class Network(Listening listening, IServer server, IConfiguration settings)
{
    /// <summary>True once the desk is listened at.</summary>
    public virtual bool Ready => server.Features.Get<IServerAddressesFeature>()?.Addresses is { Count: > 0 };

    /// <summary>What <c>CHITON_LISTEN</c> says; null where it is not set.</summary>
    public string? Named => settings["CHITON_LISTEN"] is { Length: > 0 } named ? named : null;

    /// <summary>The port that is listened at.</summary>
    public virtual int Port =>
        server.Features.Get<IServerAddressesFeature>()?.Addresses is { Count: > 0 } all
        && Uri.TryCreate(all.First(), UriKind.Absolute, out var url)
            ? url.Port
            : 80;

    /// <summary>Addresses that the room could be opened at: those that are named in <c>CHITON_LISTEN</c>, or all of this machine's that
    /// others can reach.</summary>
    public virtual IReadOnlyList<IPAddress> Addresses()
    {
        if (Named is { } named)
            return
            [
                .. named
                    .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                    .Select(a => IPAddress.TryParse(a, out var address) ? address : null)
                    .OfType<IPAddress>()
                    .Where(Fits),
            ];
        return
        [
            .. NetworkInterface
                .GetAllNetworkInterfaces()
                .Where(n => n.OperationalStatus == OperationalStatus.Up)
                .SelectMany(n => n.GetIPProperties().UnicastAddresses)
                .Select(u => u.Address)
                .Where(a => Fits(a) && !IPAddress.IsLoopback(a) && a.AddressFamily == AddressFamily.InterNetwork)
                .Distinct(),
        ];
    }

    // Never the desk's own, and never all of them at once: each is chosen.
    private static bool Fits(IPAddress a) =>
        !a.Equals(IPAddress.Loopback) && !a.Equals(IPAddress.Any) && !a.Equals(IPAddress.IPv6Any) && !a.IsIPv4MappedToIPv6;

    /// <summary>An address as it stands in a browser.</summary>
    public string Url(IPAddress address) =>
        $"http://{(address.AddressFamily == AddressFamily.InterNetworkV6 ? $"[{address}]" : address)}:{Port}";

    /// <summary>Listens at these besides the desk, and at no others. Returns once it does.</summary>
    /// <exception cref="InputProblem">When one of them cannot be listened at.</exception>
    public virtual async Task Listen(IReadOnlyList<IPAddress> addresses, IReadOnlyList<IPAddress> already, CancellationToken cancel)
    {
        foreach (var address in addresses.Except(already))
            try
            {
                using var probe = new TcpListener(address, Port);
                probe.Start();
            }
            catch (SocketException e)
            {
                throw new InputProblem("addresses", $"Nothing can be listened at {Url(address)}: {e.Message}");
            }
        listening.At(addresses.Select(Url));
        foreach (var address in addresses)
            for (var tries = 0; ; tries++)
            {
                try
                {
                    using var client = new TcpClient(address.AddressFamily);
                    await client.ConnectAsync(address, Port, cancel);
                    break;
                }
                catch (SocketException) when (tries < 100)
                {
                    await Task.Delay(50, cancel);
                }
                catch (SocketException e)
                {
                    listening.At([]);
                    throw new InputProblem("addresses", $"Nothing can be listened at {Url(address)}: {e.Message}");
                }
            }
    }
}
