using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;

namespace PostTide.Peers;

/// <summary>
/// Ports nobody listens on. They lie below those the system gives to outgoing connections (from 32768), so that none of these can
/// take one between its choice and its use; none is given twice.
/// </summary>
public static class Ports
{
    private const int First = 15_000;
    private const int Last = 32_000;
    private static readonly ConcurrentDictionary<int, bool> Given = new();

    public static int Free()
    {
        while (true)
        {
            var port = Random.Shared.Next(First, Last);
            if (!Given.TryAdd(port, true))
            {
                continue;
            }

            try
            {
                using var listener = new TcpListener(IPAddress.Loopback, port);
                listener.Start();
                return port;
            }
            catch (SocketException)
            {
                // Somebody listens there; another one.
            }
        }
    }
}
