package longthread.client;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.CharacterCodingException;
import java.nio.file.AccessDeniedException;
import java.nio.file.FileSystemException;
import java.nio.file.NoSuchFileException;
import java.nio.file.NotDirectoryException;

/** Why a file could not be read or written, in words; Java says little more than its name. */
final class FileWords {
  private FileWords() {}

  static String why(Exception e) {
    Throwable cause = e instanceof UncheckedIOException unchecked ? unchecked.getCause() : e;
    if (cause instanceof NoSuchFileException) {
      return "there is no such file or folder";
    }
    if (cause instanceof AccessDeniedException) {
      return "it is not allowed";
    }
    if (cause instanceof NotDirectoryException) {
      return "it is not a folder";
    }
    if (cause instanceof CharacterCodingException) {
      return "it is not text in UTF-8";
    }
    if (cause instanceof FileSystemException file && file.getReason() != null) {
      return file.getReason().toLowerCase(java.util.Locale.ROOT);
    }
    return cause instanceof IOException && cause.getMessage() != null
        ? cause.getMessage()
        : cause.toString();
  }
}
