using System.IO.Compression;
using System.Text;
using PostTide.Core.Filing;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Filing;

/// <summary>Types by content. The marks are those of the documents named in <see cref="ContentType"/>; archives are made by the runtime's library.</summary>
public sealed class ContentTypeTests
{
    private static byte[] Archive(params string[] names)
    {
        using var memory = new MemoryStream();
        using (var archive = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var name in names)
            {
                using var writer = new StreamWriter(archive.CreateEntry(name, CompressionLevel.NoCompression).Open());
                writer.Write(name == "mimetype" ? "application/vnd.oasis.opendocument.text" : "x");
            }
        }

        return memory.ToArray();
    }

    [Theory]
    [InlineData("%PDF-1.7\n", "application/pdf")]
    [InlineData("GIF89a....", "image/gif")]
    [InlineData("BEGIN:VCALENDAR\r\nVERSION:2.0", "text/calendar")]
    [InlineData("BEGIN:VCARD\r\n", "text/vcard")]
    [InlineData("  <!doctype HTML><html>", "text/html")]
    [InlineData("<?xml version=\"1.0\"?>", "text/xml")]
    [InlineData("time,value\n1,2\n", "text/plain")]
    [InlineData("MZ\u0090", "application/vnd.microsoft.portable-executable")]
    [InlineData("a\u0000b", "application/octet-stream")]
    [InlineData("", "")]
    public void A_file_is_known_by_its_beginning(string content, string type) => ContentType.Of(Encoding.Latin1.GetBytes(content)).ShouldBe(type);

    [Fact]
    public void Office_documents_are_told_from_other_archives()
    {
        ContentType.Of(Archive("[Content_Types].xml", "word/document.xml")).ShouldEndWith("wordprocessingml.document");
        ContentType.Of(Archive("[Content_Types].xml", "xl/workbook.xml")).ShouldEndWith("spreadsheetml.sheet");
        ContentType.Of(Archive("a.txt")).ShouldBe("application/zip");
    }

    [Fact]
    public void An_attachment_is_what_it_is_whatever_it_is_called()
    {
        var mail = "From: a@b.example\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=e\r\n\r\n--e\r\nContent-Type: text/plain\r\n\r\nx\r\n--e\r\n"
            + "Content-Type: image/png\r\nContent-Disposition: attachment; filename=\"picture.png\"\r\nContent-Transfer-Encoding: base64\r\n\r\nJVBERi0xLjQ=\r\n--e--\r\n";
        var parsed = MailReader.Read(Encoding.ASCII.GetBytes(mail));
        parsed.Size.ShouldBe(mail.Length);
        var attachment = parsed.Attachments.ShouldHaveSingleItem();
        (attachment.DeclaredType, attachment.Type, attachment.Size).ShouldBe(("image/png", "application/pdf", 8));
    }
}
