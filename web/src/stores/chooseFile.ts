/** The system's own dialog for a file; what is chosen is handed on. */
export function chooseFile(accept: string, take: (file: File) => unknown) {
  const input = document.createElement('input')
  input.type = 'file'
  input.accept = accept
  input.addEventListener('change', () => {
    if (input.files?.[0]) void take(input.files[0])
  })
  input.click()
}
